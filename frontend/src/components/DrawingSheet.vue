<script setup lang="ts">
import { ref } from 'vue'

import type { Schemas } from '@/api/client'

import CircuitSchematic from './CircuitSchematic.vue'

/** The schematic of a circuit in its place above the fall line, or over the whole window. */
defineProps<{
  drawing?: Schemas['SchematicView']
  title: string
  file: string
  live?: Record<string, number>
  troubled?: string[]
  refused?: string
  comes: boolean
}>()
const chosen = defineModel<string | null>('chosen', { default: null })
const emit = defineEmits<{ open: [owner: string] }>()

const large = ref(false)
</script>

<template>
  <section :class="{ large }" :aria-label="`Drawing of ${title}`" @keydown.esc="large = false">
    <div class="sheet">
      <CircuitSchematic
        v-if="drawing?.symbols.length"
        v-model:chosen="chosen"
        :drawing="drawing"
        :title="title"
        :live="live"
        :troubled="troubled"
        @open="(owner) => emit('open', owner)"
      />
      <p v-else-if="refused" class="refusal" role="alert">{{ refused }}</p>
      <p v-else class="empty">{{ comes ? 'Drawing…' : 'No wires in this circuit yet.' }}</p>
    </div>
    <p v-if="drawing?.symbols.length" class="tools">
      <b v-if="large">{{ title }}</b>
      <button type="button" :aria-pressed="large" @click="large = !large">{{ large ? 'Back to the circuit' : 'Over the whole window' }}</button>
      <a :href="file">Drawing as SVG</a>
    </p>
  </section>
</template>

<style scoped>
.sheet {
  overflow: auto;
  max-height: 300px;
}

.tools {
  display: flex;
  gap: 14px;
  align-items: baseline;
  justify-content: flex-end;
  margin: 1px 2px 0;
  font-size: 13px;
}

.tools button {
  padding: 0;
  border: 0;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
  text-decoration: underline;
}

section.large {
  position: fixed;
  z-index: 5;
  display: flex;
  flex-direction: column;
  background: var(--sheet);
  inset: 50px 0 0;
}

.large .tools {
  padding: 6px 14px;
  border-bottom: 1px solid var(--rule);
  order: -1;
}

.large .tools b {
  margin-right: auto;
  font-family: var(--heading);
  font-size: 20px;
}

.large .sheet {
  max-height: none;
  flex: 1;
  border: 0;
}

.large :deep(.schematic) {
  min-width: calc(var(--drawn-width) * 0.85);
  max-width: none;
  height: 100%;
  min-height: calc(var(--drawn-height) * 0.66);
}
</style>
