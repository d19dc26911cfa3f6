<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'

import type { Operation } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import type { StockRow } from '@/stock'

import NoteField from './NoteField.vue'
import PhotoStrip from './PhotoStrip.vue'
import SideSheet from './SideSheet.vue'

/** One row of the stock list beside the list: its note, its photos, and what can be done with it. */
const props = defineProps<{ row: StockRow }>()
const emit = defineEmits<{ close: [] }>()

const id = useBuildId()
const { edit } = useEdits(id)

function saveNote(note: string): void {
  const rows = [{ part: props.row.part, cells: { note } }]
  void edit(`Note on ${props.row.cells.name}`, [{ op: 'set_cells', rows }])
}

function act(words: string, operation: Operation): void {
  void edit(`${words} ${props.row.cells.name}`, [operation])
}
</script>

<template>
  <SideSheet :name="row.cells.name ?? ''" :label="`More of ${row.cells.name}`" @close="emit('close')">
    <p class="quiet">{{ row.cells.what }} · {{ row.cells.where || 'not placed yet' }}</p>
    <p v-if="row.wiring === 'not wired'">
      Wanted: {{ row.cells.key || 'always' }}, {{ row.cells.switch || 'key only' }},
      {{ row.cells.through || 'direct' }}.
    </p>
    <p v-else-if="row.wiring === 'by hand'" class="quiet">Wired by hand.</p>
    <p v-else-if="row.shares > 1" class="quiet">
      Shares live from, switch, relay and fuse with {{ row.shares - 1 }} more of its circuit.
    </p>
    <NoteField :of="row.part" :text="row.cells.note ?? ''" @save="saveNote" />
    <h3>Photos</h3>
    <PhotoStrip collection="parts" :identity="row.part" />
    <h3>This row</h3>
    <p class="actions">
      <AButton v-if="row.wiring === 'not wired'" type="primary" size="small" @click="act('Wire', { op: 'wire_load', load: row.part })">
        Wire it as wanted
      </AButton>
      <AButton v-if="row.wiring === 'wired'" size="small" @click="act('Unwire', { op: 'unwire_load', load: row.part })">
        Take its wires out
      </AButton>
      <AButton danger size="small" :aria-label="`Remove ${row.cells.name}`" @click="act('Remove', { op: 'remove_row', part: row.part })">
        Remove the row
      </AButton>
    </p>
  </SideSheet>
</template>

<style scoped>
.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
