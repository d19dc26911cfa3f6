<script setup lang="ts">
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import type { Schemas } from '@/api/client'

import CircuitSchematic, { type LiveWires } from './CircuitSchematic.vue'

/** The schematic of a circuit in its place above the fall line, or over the whole window. */
const props = defineProps<{
  drawing?: Schemas['SchematicView']
  title: string
  /** Where it is kept as a file, its ending left out, and what else is asked of it. */
  file?: string
  query?: string
  live?: LiveWires
  troubled?: string[]
  refused?: string
  comes?: boolean
  /** Whether a press on a terminal picks it, for a probe. */
  picks?: boolean
}>()
const chosen = defineModel<string | null>('chosen', { default: null })
const emit = defineEmits<{ open: [owner: string]; pick: [terminal: string] }>()

const LEAST = 0.3
const MOST = 3
const STEP = 1.25
const MARGIN = 2

const large = ref(false)
const sheet = ref<HTMLElement>()
const room = ref({ width: 0, height: 0 })
/** Times its own size; null as large as the sheet allows, its words never smaller than they are drawn. */
const asked = ref<number | null>(null)

const whole = computed(() => {
  const { width = 1, height = 1 } = props.drawing ?? {}
  return Math.min((room.value.width - MARGIN) / width, large.value ? (room.value.height - MARGIN) / height : Infinity, 1.3)
})
const zoom = computed(() => Math.min(Math.max(asked.value ?? Math.max(whole.value, 1), LEAST), MOST))
const isWhole = computed(() => Math.abs(zoom.value - Math.max(whole.value, LEAST)) < 0.005)

const watcher = new ResizeObserver(([entry]) => {
  if (entry) room.value = { width: entry.contentRect.width, height: entry.contentRect.height }
})
onMounted(() => watcher.observe(sheet.value!))
onBeforeUnmount(() => watcher.disconnect())
watch(() => props.title, () => (asked.value = null))

/** A drawing that is taller than the sheet begins where its feeds are; an edit of it leaves it where it was. */
let begun = ''
watch(
  () => props.drawing?.symbols,
  async (symbols) => {
    await nextTick()
    if (!symbols?.length || !sheet.value || begun === props.title) return
    begun = props.title
    const left = Math.min(...symbols.map((symbol) => symbol.x))
    const feeds = symbols.filter((symbol) => symbol.x <= left + 1).map((symbol) => symbol.y)
    const middle = (Math.min(...feeds) + Math.max(...feeds)) / 2
    sheet.value.scrollTop = middle * zoom.value - sheet.value.clientHeight / 2
  },
  { immediate: true },
)

/** Drag the sheet to see what lies beside it. */
function pan(event: PointerEvent): void {
  if (event.buttons !== 1 || event.pointerType !== 'mouse') return
  sheet.value!.scrollLeft -= event.movementX
  sheet.value!.scrollTop -= event.movementY
}
</script>

<template>
  <section :class="{ large }" :aria-label="`Drawing of ${title}`" @keydown.esc="large = false">
    <div ref="sheet" class="sheet" tabindex="0" :aria-label="`Sheet of ${title}: arrow keys move it`" role="group" :style="{ '--zoom': zoom }" @pointermove="pan">
      <CircuitSchematic
        v-if="drawing?.symbols.length"
        v-model:chosen="chosen"
        :drawing="drawing"
        :title="title"
        :live="live"
        :troubled="troubled"
        :picks="picks"
        @open="(owner) => emit('open', owner)"
        @pick="(terminal) => emit('pick', terminal)"
      />
      <p v-else-if="refused" class="refusal" role="alert">{{ refused }}</p>
      <p v-else class="empty">{{ comes ? 'Drawing…' : 'No wires in this circuit yet.' }}</p>
    </div>
    <p v-if="drawing?.symbols.length" class="tools">
      <b v-if="large">{{ title }}</b>
      <span class="zoom">
        <button type="button" aria-label="Smaller" :disabled="zoom <= LEAST" @click="asked = zoom / STEP">−</button>
        <span class="figure" role="status">{{ Math.round(100 * zoom) }} %</span>
        <button type="button" aria-label="Larger" :disabled="zoom >= MOST" @click="asked = zoom * STEP">+</button>
        <button v-if="!isWhole || asked !== null" type="button" @click="asked = isWhole ? null : whole">{{ isWhole ? 'Readable' : 'All of it' }}</button>
      </span>
      <button type="button" :aria-pressed="large" @click="large = !large">{{ large ? 'Back' : 'Over the whole window' }}</button>
      <template v-if="file">
        <a :href="`${file}.svg?${query ?? ''}`">Drawing as SVG</a>
        <a v-for="paper in ['A4', 'A3']" :key="paper" :href="`${file}.pdf?paper=${paper}&${query ?? ''}`">PDF, {{ paper }}</a>
      </template>
    </p>
  </section>
</template>

<style scoped>
.sheet {
  overflow: auto;
  max-height: min(56vh, 520px);
}

.zoom {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-right: auto;
}

.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
  align-items: center;
  justify-content: flex-end;
  margin: 1px 2px 0;
  font-size: 13px;
  white-space: nowrap;
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

.large .zoom {
  margin-right: 0;
}
</style>
