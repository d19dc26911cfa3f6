<script setup lang="ts">
/** The dark bar of the screens that show no build. */
</script>

<template>
  <header class="plain-bar no-print">
    <RouterLink :to="{ name: 'builds' }" title="All builds">OILSTONE</RouterLink>
  </header>
</template>

<style scoped>
.plain-bar {
  padding: 10px 14px;
  background: var(--bar);
}

a {
  color: var(--bar-ink);
  font-family: var(--heading);
  font-size: 22px;
  font-weight: 600;
  letter-spacing: 0.04em;
  text-decoration: none;
}
</style>
