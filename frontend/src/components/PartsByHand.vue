<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'

import type { BuildView, Operation, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { usePartsCatalogue } from '@/colours'

import PartDetail from './PartDetail.vue'

/** The parts of a circuit and what its wires land on: what each is, where, and its insides. */
const props = defineProps<{ build: BuildView; circuit: Schemas['CircuitView']; lit?: string | null }>()
const emit = defineEmits<{ light: [owner: string | null] }>()

const { edit } = useEdits(useBuildId())
const { data: catalogue } = usePartsCatalogue()

const kinds = computed(() => Object.fromEntries((catalogue.value?.kinds ?? []).map((row) => [row.kind, row])))
const parts = computed(() => {
  const wires = props.build.wires.filter((wire) => wire.circuit === props.circuit.id)
  const landed = new Set(wires.flatMap((wire) => [wire.from_terminal, wire.to_terminal].map((end) => end.split('.')[0])))
  return props.build.parts.filter(
    (part) => part.circuit === props.circuit.id || (landed.has(part.id) && kinds.value[part.kind]?.is_shared),
  )
})

const added = computed(() => Object.values(kinds.value).filter((row) => row.added_by_hand))
const opened = ref<string | null>(null)
const part = reactive({ kind: 'relay', name: '', place: '', row: '', count: 6 })

/** The word for what is inside a part and can be changed; none where there is nothing. */
function insides(row: Schemas['PartView']): string {
  if (row.contacts) return 'contacts…'
  const points = kinds.value[row.kind]?.points
  if (points) return `${points}…`
  return catalogue.value?.figures[row.figures_as]?.length ? 'figures…' : ''
}

/** What a part of a kind may be; the rows of loads, switches and sensors say more than their kind. */
function choicesOf(kind: string): string[] {
  return kinds.value[kind]?.choices ?? []
}

async function addPart(): Promise<void> {
  const operation: Operation = {
    op: 'add_part',
    kind: part.kind,
    name: part.name,
    place: part.place,
    row: part.row || null,
    circuit: props.circuit.id,
    count: part.count,
  }
  await edit(`Add ${part.name}`, [operation], () => Object.assign(part, { name: '', row: '' }))
}

function remove(row: Schemas['PartView']): void {
  const out: Operation =
    row.kind === 'load' ? { op: 'remove_load', load: row.id } : { op: 'remove', collection: 'parts', id: row.id }
  void edit(`Take out ${row.name}`, [out])
}
</script>

<template>
  <div class="by-hand">
    <h3>Parts</h3>
    <table>
      <thead>
        <tr>
          <th scope="col">Part</th>
          <th scope="col">Kind</th>
          <th scope="col">Where</th>
          <th scope="col"><span class="visually-hidden">Do</span></th>
        </tr>
      </thead>
      <tbody>
        <template v-for="row in parts" :key="row.id">
          <tr :class="{ lit: lit === row.id }" @pointerenter="emit('light', row.id)" @pointerleave="emit('light', null)">
            <td>{{ row.name }}</td>
            <td>
              <select
                v-if="kinds[row.kind]?.row_changes"
                :aria-label="`Kind of ${row.name}`"
                :value="row.catalogue ?? ''"
                @change="
                  edit(`${row.name}: ${($event.target as HTMLSelectElement).value}`, [
                    { op: 'change', collection: 'parts', id: row.id, fields: { catalogue: ($event.target as HTMLSelectElement).value } },
                  ])
                "
              >
                <option v-for="one in choicesOf(row.kind)" :key="one" :value="one">{{ one }}</option>
              </select>
              <template v-else>{{ row.catalogue ?? row.kind }}</template>
            </td>
            <td>
              <select
                :aria-label="`Place of ${row.name}`"
                :value="row.place"
                @change="edit(`Move ${row.name}`, [{ op: 'move_part', part: row.id, place: ($event.target as HTMLSelectElement).value }])"
              >
                <option v-for="place in build.places" :key="place.id" :value="place.id">{{ place.name }}</option>
              </select>
            </td>
            <td class="acts">
              <button v-if="insides(row)" type="button" :aria-expanded="opened === row.id" @click="opened = opened === row.id ? null : row.id">
                {{ insides(row) }}
              </button>
              <button v-if="row.kind === 'load'" type="button" @click="edit(`Split off ${row.name}`, [{ op: 'split_load', load: row.id }])">
                a way of its own
              </button>
              <button type="button" @click="remove(row)">take out</button>
            </td>
          </tr>
          <tr v-if="opened === row.id">
            <td colspan="4"><PartDetail :build="build" :part="row" /></td>
          </tr>
        </template>
      </tbody>
    </table>
    <form class="line" aria-label="New part" @submit.prevent="addPart">
      <label>
        part
        <select v-model="part.kind" @change="part.row = ''">
          <option v-for="row in added" :key="row.kind" :value="row.kind">{{ row.kind }}</option>
        </select>
      </label>
      <label v-if="choicesOf(part.kind).length">
        kind
        <select v-model="part.row">
          <option v-if="kinds[part.kind]?.has_usual" value="">the usual</option>
          <option v-for="one in choicesOf(part.kind)" :key="one" :value="one">{{ one }}</option>
        </select>
      </label>
      <label v-if="kinds[part.kind]?.points">
        of
        <input v-model.number="part.count" class="few" type="number" min="1" max="60" :aria-label="`How many ${kinds[part.kind]!.points}`" />
        {{ kinds[part.kind]!.points }}
      </label>
      <label>called <input v-model="part.name" maxlength="80" /></label>
      <label>
        at
        <select v-model="part.place">
          <option value="" disabled>choose…</option>
          <option v-for="place in build.places" :key="place.id" :value="place.id">{{ place.name }}</option>
        </select>
      </label>
      <AButton size="small" html-type="submit" :disabled="!part.name.trim() || !part.place || (!kinds[part.kind]?.has_usual && !part.row)">Add part</AButton>
    </form>
  </div>
</template>

<style scoped src="@/by-hand.css"></style>
