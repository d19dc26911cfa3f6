<script setup lang="ts">
import { useBuildId } from '@/api/queries'

/** The views of one stage, as tabs that are links. */
defineProps<{ label: string; tabs: { name: string; title: string }[] }>()

const id = useBuildId()
</script>

<template>
  <nav class="tabs no-print" :aria-label="label">
    <RouterLink v-for="tab in tabs" :key="tab.name" :to="{ name: tab.name, params: { id } }">
      {{ tab.title }}
    </RouterLink>
  </nav>
</template>

<style scoped>
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
  padding: 6px 12px 0;
  border-bottom: 1px solid var(--rule);
  background: var(--card);
}

.tabs a {
  padding: 4px 12px 5px;
  border: 1px solid transparent;
  border-bottom: 0;
  border-radius: 3px 3px 0 0;
  color: var(--ink);
  font-family: var(--heading);
  font-size: 16px;
  font-weight: 600;
  text-decoration: none;
  white-space: nowrap;
}

.tabs a.router-link-exact-active {
  border-color: var(--rule);
  margin-bottom: -1px;
  background: var(--sheet);
  color: var(--copper);
}
</style>
