<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { ref, watch } from 'vue'

import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import type { StockRow } from '@/stock'

import PhotoStrip from './PhotoStrip.vue'

/** One row of the stock list beside the list: its note, its photos, and what can be done with it. */
const props = defineProps<{ row: StockRow }>()
const emit = defineEmits<{ close: [] }>()

const id = useBuildId()
const { edit } = useEdits(id)
const note = ref(props.row.cells.note ?? '')

watch(
  () => props.row,
  (row, before) => {
    if (row.part !== before.part || note.value === before.cells.note) note.value = row.cells.note ?? ''
  },
)

function saveNote(): void {
  if (note.value === props.row.cells.note) return
  const rows = [{ part: props.row.part, cells: { note: note.value } }]
  void edit(`Note on ${props.row.cells.name}`, [{ op: 'set_cells', rows }])
}

function act(words: string, op: string): void {
  const target = op === 'remove_row' ? { part: props.row.part } : { load: props.row.part }
  void edit(`${words} ${props.row.cells.name}`, [{ op, ...target }])
}
</script>

<template>
  <aside :aria-label="`More of ${row.cells.name}`" @keydown.esc="emit('close')">
    <header>
      <h2>{{ row.cells.name }}</h2>
      <button type="button" aria-label="Close" @click="emit('close')">✕</button>
    </header>
    <p class="quiet">{{ row.cells.what }} · {{ row.cells.where || 'not placed yet' }}</p>
    <p v-if="row.wiring === 'not wired'">
      Wanted: {{ row.cells.key || 'always' }}, {{ row.cells.switch || 'key only' }},
      {{ row.cells.through || 'direct' }}.
    </p>
    <p v-else-if="row.wiring === 'by hand'" class="quiet">Wired by hand.</p>
    <p v-else-if="row.shares > 1" class="quiet">
      Shares live from, switch, relay and fuse with {{ row.shares - 1 }} more of its circuit.
    </p>
    <label class="note">
      <span>Note</span>
      <textarea v-model="note" maxlength="500" rows="4" @blur="saveNote"></textarea>
    </label>
    <h3>Photos</h3>
    <PhotoStrip collection="parts" :identity="row.part" />
    <h3>This row</h3>
    <p class="actions">
      <AButton v-if="row.wiring === 'not wired'" type="primary" size="small" @click="act('Wire', 'wire_load')">
        Wire it as wanted
      </AButton>
      <AButton v-if="row.wiring === 'wired'" size="small" @click="act('Unwire', 'unwire_load')">
        Take its wires out
      </AButton>
      <AButton danger size="small" :aria-label="`Remove ${row.cells.name}`" @click="act('Remove', 'remove_row')">
        Remove the row
      </AButton>
    </p>
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

header {
  display: flex;
  justify-content: space-between;
}

header button {
  border: 0;
  background: none;
  color: var(--ink);
  cursor: pointer;
  font-size: 16px;
}

h3 {
  margin: 12px 0 6px;
}

.note span {
  display: block;
  color: var(--quiet);
  font-family: var(--heading);
}

textarea {
  width: 100%;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
