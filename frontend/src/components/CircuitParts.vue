<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'

import type { BuildView, Operation, Results, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { lettersOf, usePartsCatalogue } from '@/colours'
import { fixed } from '@/format'

import ColourPolicy from './ColourPolicy.vue'
import ContactGrid from './ContactGrid.vue'
import MoveCircuit from './MoveCircuit.vue'

/** Every leg of a circuit, to be changed by hand: wires, parts, contacts, and where it sits. */
const props = defineProps<{ build: BuildView; circuit: Schemas['CircuitView']; results?: Results; lit?: string | null }>()
const emit = defineEmits<{ light: [owner: string | null]; gone: []; went: [circuit: string] }>()

const id = useBuildId()
const { edit } = useEdits(id)
const { data: catalogue } = usePartsCatalogue()

const wires = computed(() => props.build.wires.filter((wire) => wire.circuit === props.circuit.id))
const parts = computed(() => {
  const landed = new Set(wires.value.flatMap((wire) => [wire.from_terminal, wire.to_terminal].map((end) => end.split('.')[0])))
  return props.build.parts.filter(
    (part) => part.circuit === props.circuit.id || (landed.has(part.id) && ['switch', 'sensor', 'isolator'].includes(part.kind)),
  )
})
const terminals = computed(() =>
  props.build.parts
    .filter((part) => !part.housed)
    .flatMap((part) => part.terminals.map((name) => ({ id: `${part.id}.${name}`, said: `${part.name}, ${name}` }))),
)
const sizes = computed(() => catalogue.value?.conductors[props.build.policy.conductors] ?? [])
const others = computed(() => props.build.circuits.filter((row) => row.id !== props.circuit.id))

const opened = ref<string | null>(null)
const inserting = ref<string | null>(null)
const insertion = reactive({ kind: 'relay', place: '', name: '', power: '', into: '' })
const wire = reactive({ from: '', to: '' })
const part = reactive({ kind: 'relay', name: '', place: '', row: '' })
const into = ref('')

const INSERTED = ['relay', 'fuse', 'diode', 'resistor', 'switch', 'splice', 'connector']
const ADDED = ['relay', 'switch', 'sensor', 'fuse', 'diode', 'resistor', 'splice', 'connector', 'flasher', 'load', 'ground point', 'stud', 'bus bar', 'isolator', 'alternator']
const fuses = computed(() => props.build.parts.filter((row) => row.kind === 'fuse' && row.fitted))
const joints = computed(() => props.build.parts.filter((row) => ['connector', 'splice'].includes(row.kind)))

function change(collection: string, thing: string, fields: Record<string, unknown>, label: string): Promise<boolean> {
  return edit(label, [{ op: 'change', collection, id: thing, fields }])
}

function typed(event: Event): string {
  return (event.target as HTMLInputElement | HTMLSelectElement).value
}

/** A wire's end typed anew; what is refused is put back. */
async function moveEnd(row: Schemas['WireView'], end: 'from_terminal' | 'to_terminal', event: Event): Promise<void> {
  const to = typed(event).trim()
  const done = to !== row[end] && (await change('wires', row.id, { [end]: to, way: null }, `Move ${row.label} to ${to}`))
  if (!done) (event.target as HTMLInputElement).value = row[end]
}

async function rename(row: Schemas['WireView'], event: Event): Promise<void> {
  const label = typed(event).trim()
  if (!label || label === row.label || !(await change('wires', row.id, { label }, `Label ${row.label} as ${label}`))) {
    ;(event.target as HTMLInputElement).value = row.label
  }
}

async function insert(row: Schemas['WireView']): Promise<void> {
  const operation: Operation = {
    op: 'insert',
    wire: row.id,
    kind: insertion.kind,
    place: insertion.place || null,
    name: insertion.name,
    power: insertion.power || null,
    into: insertion.into || null,
  }
  const what = insertion.into ? (joints.value.find((one) => one.id === insertion.into)?.name ?? '') : `a ${insertion.kind}`
  await edit(`Insert ${what} into ${row.label}`, [operation], () => {
    inserting.value = null
    Object.assign(insertion, { kind: 'relay', place: '', name: '', power: '', into: '' })
  })
}

async function addWire(): Promise<void> {
  const operation = { op: 'add_wire', from_terminal: wire.from, to_terminal: wire.to, circuit: props.circuit.id }
  await edit(`Add a wire from ${wire.from} to ${wire.to}`, [operation], () => Object.assign(wire, { from: '', to: '' }))
}

async function addPart(): Promise<void> {
  const operation = {
    op: 'add_part',
    kind: part.kind,
    name: part.name,
    place: part.place || props.build.places[0]?.id,
    row: part.row || null,
    circuit: props.circuit.id,
  }
  await edit(`Add ${part.name}`, [operation], () => Object.assign(part, { name: '', row: '' }))
}

/** What a part of a kind may be; the rows of loads, switches and sensors say more than their kind. */
function rowsOf(kind: string): string[] {
  return catalogue.value?.rows[kind] ?? []
}

const CHANGED = ['relay', 'fuse', 'flasher']

async function copy(): Promise<void> {
  await edit(`Copy ${props.circuit.name} to the other side`, [{ op: 'mirror_circuit', circuit: props.circuit.id }])
}

async function merge(): Promise<void> {
  const name = others.value.find((row) => row.id === into.value)?.name
  await edit(`Join ${props.circuit.name} to ${name}`, [{ op: 'merge_circuits', into: into.value, circuits: [props.circuit.id] }], () =>
    emit('went', into.value),
  )
}

function remove(row: Schemas['PartView']): void {
  void edit(`Take out ${row.name}`, [{ op: row.kind === 'load' ? 'remove_load' : 'remove', collection: 'parts', id: row.id, load: row.id }])
}
</script>

<template>
  <div class="by-hand">
    <datalist id="all-terminals">
      <option v-for="row in terminals" :key="row.id" :value="row.id">{{ row.said }}</option>
    </datalist>
    <datalist id="all-colours">
      <option v-for="(code, name) in catalogue?.colours" :key="name" :value="name">{{ code }}</option>
    </datalist>

    <h3>Wires</h3>
    <table>
      <thead>
        <tr>
          <th scope="col">Label</th>
          <th scope="col">From</th>
          <th scope="col">To</th>
          <th scope="col">Colour</th>
          <th scope="col">Size</th>
          <th scope="col"><span class="visually-hidden">Do</span></th>
        </tr>
      </thead>
      <tbody>
        <template v-for="row in wires" :key="row.id">
          <tr :class="{ lit: lit === row.id }" @pointerenter="emit('light', row.id)" @pointerleave="emit('light', null)">
            <td><input class="short" :value="row.label" :aria-label="`Label of ${row.label}`" @change="rename(row, $event)" /></td>
            <td>
              <input list="all-terminals" :value="row.from_terminal" :title="row.from_terminal" :aria-label="`${row.label} from`" @change="moveEnd(row, 'from_terminal', $event)" />
            </td>
            <td>
              <input list="all-terminals" :value="row.to_terminal" :title="row.to_terminal" :aria-label="`${row.label} to`" @change="moveEnd(row, 'to_terminal', $event)" />
            </td>
            <td>
              <input
                class="middle"
                list="all-colours"
                :value="row.colour"
                :aria-label="`Colour of ${row.label}`"
                :title="lettersOf(row.colour)"
                @change="change('wires', row.id, { colour: typed($event) || 'black' }, `Colour ${row.label} ${typed($event)}`)"
              />
            </td>
            <td>
              <select
                :aria-label="`Size of ${row.label}`"
                :title="`${fixed(results?.wires[row.id]?.length_m, 2)} m`"
                :value="row.size ?? ''"
                @change="change('wires', row.id, { size: typed($event) || null }, typed($event) ? `Fit ${typed($event)} on ${row.label}` : `Let Oilstone size ${row.label}`)"
              >
                <option value="">{{ results?.wires[row.id]?.size ?? '' }} auto</option>
                <option v-for="size in sizes" :key="size" :value="size">{{ size }}</option>
              </select>
            </td>
            <td class="acts">
              <button type="button" :aria-expanded="inserting === row.id" @click="inserting = inserting === row.id ? null : row.id">insert…</button>
              <button type="button" :aria-label="`Take out wire ${row.label}`" title="Take out" @click="edit(`Take out wire ${row.label}`, [{ op: 'remove', collection: 'wires', id: row.id }])">✕</button>
            </td>
          </tr>
          <tr v-if="inserting === row.id">
            <td colspan="6">
              <form class="line" :aria-label="`Insert into ${row.label}`" @submit.prevent="insert(row)">
                <label>
                  a
                  <select v-model="insertion.kind" aria-label="What to insert" @change="insertion.into = ''">
                    <option v-for="kind in INSERTED" :key="kind" :value="kind">{{ kind }}</option>
                  </select>
                </label>
                <label v-if="['connector', 'splice'].includes(insertion.kind) && joints.length">
                  or through
                  <select v-model="insertion.into">
                    <option value="">a new one</option>
                    <option v-for="one in joints.filter((one) => one.kind === insertion.kind)" :key="one.id" :value="one.id">{{ one.name }}</option>
                  </select>
                </label>
                <label>
                  called
                  <input v-model="insertion.name" :placeholder="`${insertion.kind} in ${row.label}`" maxlength="80" />
                </label>
                <label>
                  at
                  <select v-model="insertion.place">
                    <option value="">the end of the wire</option>
                    <option v-for="place in build.places" :key="place.id" :value="place.id">{{ place.name }}</option>
                  </select>
                </label>
                <label v-if="insertion.kind === 'relay'">
                  power from
                  <select v-model="insertion.power">
                    <option value="">a free way, always live</option>
                    <option v-for="fuse in fuses" :key="fuse.id" :value="fuse.id">{{ fuse.name }}</option>
                  </select>
                </label>
                <AButton size="small" type="primary" html-type="submit">Insert {{ insertion.kind }}</AButton>
              </form>
              <p v-if="insertion.kind === 'relay'" class="quiet hint">
                {{ row.label }} will feed only the coil, 86; its contact, 30 to 87, feeds on to {{ row.to_terminal }}.
              </p>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <form class="line" aria-label="New wire" @submit.prevent="addWire">
      <label>wire from <input v-model="wire.from" list="all-terminals" placeholder="part.terminal" /></label>
      <label>to <input v-model="wire.to" list="all-terminals" placeholder="part.terminal" /></label>
      <AButton size="small" html-type="submit" :disabled="!wire.from || !wire.to">Add wire</AButton>
    </form>

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
                v-if="CHANGED.includes(row.kind) && rowsOf(row.kind).length"
                :aria-label="`Kind of ${row.name}`"
                :value="row.catalogue ?? ''"
                @change="change('parts', row.id, { catalogue: typed($event) }, `${row.name}: ${typed($event)}`)"
              >
                <option v-for="one in rowsOf(row.kind)" :key="one" :value="one">{{ one }}</option>
              </select>
              <template v-else>{{ row.catalogue ?? row.kind }}</template>
            </td>
            <td>
              <select
                :aria-label="`Place of ${row.name}`"
                :value="row.place"
                @change="edit(`Move ${row.name}`, [{ op: 'move_part', part: row.id, place: typed($event) }])"
              >
                <option v-for="place in build.places" :key="place.id" :value="place.id">{{ place.name }}</option>
              </select>
            </td>
            <td class="acts">
              <button v-if="row.contacts" type="button" :aria-expanded="opened === row.id" @click="opened = opened === row.id ? null : row.id">
                contacts…
              </button>
              <button v-if="row.kind === 'load'" type="button" @click="edit(`Split off ${row.name}`, [{ op: 'split_load', load: row.id }])">
                a way of its own
              </button>
              <button type="button" @click="remove(row)">take out</button>
            </td>
          </tr>
          <tr v-if="opened === row.id && row.contacts">
            <td colspan="4">
              <ContactGrid
                :part="row"
                @save="(contacts) => change('parts', row.id, { contacts }, `Contacts of ${row.name}`)"
              />
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <form class="line" aria-label="New part" @submit.prevent="addPart">
      <label>
        part
        <select v-model="part.kind" @change="part.row = ''">
          <option v-for="kind in ADDED" :key="kind" :value="kind">{{ kind }}</option>
        </select>
      </label>
      <label v-if="rowsOf(part.kind).length">
        kind
        <select v-model="part.row">
          <option v-if="part.kind !== 'load'" value="">the usual</option>
          <option v-for="one in rowsOf(part.kind)" :key="one" :value="one">{{ one }}</option>
        </select>
      </label>
      <label>called <input v-model="part.name" maxlength="80" /></label>
      <label>
        at
        <select v-model="part.place">
          <option value="" disabled>choose…</option>
          <option v-for="place in build.places" :key="place.id" :value="place.id">{{ place.name }}</option>
        </select>
      </label>
      <AButton size="small" html-type="submit" :disabled="!part.name.trim() || !part.place || (part.kind === 'load' && !part.row)">Add part</AButton>
    </form>

    <h3>The whole circuit</h3>
    <MoveCircuit :build="build" :circuits="[circuit.id]" />
    <div class="line">
      <AButton size="small" @click="copy">Copy to the other side</AButton>
      <label>
        join it to
        <select v-model="into">
          <option value="" disabled>choose…</option>
          <option v-for="row in others" :key="row.id" :value="row.id">{{ row.name }}</option>
        </select>
      </label>
      <AButton size="small" :disabled="!into" @click="merge">Feed its loads from there</AButton>
    </div>

    <h3>Colours</h3>
    <ColourPolicy :build="build" />
  </div>
</template>

<style scoped>
.by-hand {
  overflow-x: auto;
  padding: 4px 10px 10px;
}

h3 {
  margin: 8px 0 2px;
}

th,
td {
  padding: 0 3px;
  white-space: nowrap;
}

tr.lit {
  background: color-mix(in srgb, var(--amber) 18%, transparent);
}

input:not([type='checkbox']),
select {
  width: 150px;
  height: 24px;
  padding: 0 4px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: transparent;
  color: var(--ink);
  font: inherit;
}

input:hover,
select:hover,
input:focus,
select:focus,
.line input,
.line select {
  border-color: color-mix(in srgb, var(--quiet) 55%, transparent);
  background: var(--sheet);
}

input.short {
  width: 58px;
  font-weight: 600;
}

input.middle {
  width: 86px;
}

td select {
  width: 108px;
}

.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  padding: 5px 0;
}

.line input:not([type='checkbox']),
.line select {
  width: 150px;
}

.hint {
  margin: 0 0 4px;
}

.acts {
  white-space: nowrap;
}

.acts button {
  padding: 0 5px;
  border: 0;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
}
</style>
