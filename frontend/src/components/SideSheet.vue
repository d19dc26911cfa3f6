<script setup lang="ts">
/** A sheet beside a list with more of one of its rows; Esc or the cross puts it away. */
defineProps<{ name: string; label: string; wide?: boolean }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <aside :class="{ wide }" :aria-label="label" @keydown.esc="emit('close')">
    <header>
      <h2>
        <slot name="title">{{ name }}</slot>
      </h2>
      <button type="button" aria-label="Close" @click="emit('close')">✕</button>
    </header>
    <slot />
  </aside>
</template>

<style scoped>
aside {
  width: 290px;
  flex: none;
  overflow-y: auto;
  padding: 10px 12px;
  border-left: 1px solid var(--rule);
  background: var(--paper);
}

aside.wide {
  width: 430px;
}

header {
  display: flex;
  justify-content: space-between;
}

header > button {
  border: 0;
  background: none;
  color: var(--ink);
  cursor: pointer;
  font-size: 16px;
}

aside :slotted(h3) {
  margin: 12px 0 6px;
}

aside :slotted(table) td {
  padding: 1px 2px;
}

@media (max-width: 1000px) {
  aside.wide {
    width: auto;
    max-height: 55%;
    border-top: 1px solid var(--rule);
    border-left: 0;
  }
}
</style>
