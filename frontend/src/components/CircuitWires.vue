<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, reactive, ref } from 'vue'

import type { BuildView, Operation, Results, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { lettersOf, usePartsCatalogue } from '@/colours'
import { fixed } from '@/format'

/** The wires of a circuit: label, ends, colour and size; a part can be put into each. */
const props = defineProps<{ build: BuildView; circuit: Schemas['CircuitView']; results?: Results; lit?: string | null }>()
const emit = defineEmits<{ light: [owner: string | null] }>()

const { edit } = useEdits(useBuildId())
const { data: catalogue } = usePartsCatalogue()

const wires = computed(() => props.build.wires.filter((wire) => wire.circuit === props.circuit.id))
const terminals = computed(() =>
  props.build.parts
    .filter((part) => !part.housed)
    .flatMap((part) => part.terminals.map((name) => ({ id: `${part.id}.${name}`, said: `${part.name}, ${name}` }))),
)
const sizes = computed(() => catalogue.value?.conductors[props.build.policy.conductors] ?? [])

const inserting = ref<string | null>(null)
const UNSAID = { kind: 'relay', place: '', name: '', power: '', into: '', count: 2 }
const insertion = reactive({ ...UNSAID })
const wire = reactive({ from: '', to: '' })

const inserted = computed(() => (catalogue.value?.kinds ?? []).filter((row) => row.is_put_into_wires))
const fuses = computed(() => props.build.parts.filter((row) => row.kind === 'fuse' && row.fitted))
const joints = computed(() => props.build.parts.filter((row) => ['connector', 'splice'].includes(row.kind)))

function change(row: Schemas['WireView'], fields: Record<string, unknown>, label: string): Promise<boolean> {
  return edit(label, [{ op: 'change', collection: 'wires', id: row.id, fields }])
}

function typed(event: Event): string {
  return (event.target as HTMLInputElement | HTMLSelectElement).value
}

/** A wire's end typed anew; what is refused is put back. */
async function moveEnd(row: Schemas['WireView'], end: 'from_terminal' | 'to_terminal', event: Event): Promise<void> {
  const to = typed(event).trim()
  const done = to !== row[end] && (await change(row, { [end]: to, way: null }, `Move ${row.label} to ${to}`))
  if (!done) (event.target as HTMLInputElement).value = row[end]
}

async function rename(row: Schemas['WireView'], event: Event): Promise<void> {
  const label = typed(event).trim()
  if (!label || label === row.label || !(await change(row, { label }, `Label ${row.label} as ${label}`))) {
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
    count: insertion.count,
  }
  const what = insertion.into ? (joints.value.find((one) => one.id === insertion.into)?.name ?? '') : `a ${insertion.kind}`
  await edit(`Insert ${what} into ${row.label}`, [operation], () => {
    inserting.value = null
    Object.assign(insertion, UNSAID)
  })
}

async function addWire(): Promise<void> {
  const operation: Operation = { op: 'add_wire', from_terminal: wire.from, to_terminal: wire.to, circuit: props.circuit.id }
  await edit(`Add a wire from ${wire.from} to ${wire.to}`, [operation], () => Object.assign(wire, { from: '', to: '' }))
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
                @change="change(row, { colour: typed($event) || 'black' }, `Colour ${row.label} ${typed($event)}`)"
              />
            </td>
            <td>
              <select
                :aria-label="`Size of ${row.label}`"
                :title="`${fixed(results?.wires[row.id]?.length_m, 2)} m`"
                :value="row.size ?? ''"
                @change="change(row, { size: typed($event) || null }, typed($event) ? `Fit ${typed($event)} on ${row.label}` : `Let Oilstone size ${row.label}`)"
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
                    <option v-for="one in inserted" :key="one.kind" :value="one.kind">{{ one.kind }}</option>
                  </select>
                </label>
                <label v-if="['connector', 'splice'].includes(insertion.kind) && joints.length">
                  or through
                  <select v-model="insertion.into">
                    <option value="">a new one</option>
                    <option v-for="one in joints.filter((one) => one.kind === insertion.kind)" :key="one.id" :value="one.id">{{ one.name }}</option>
                  </select>
                </label>
                <label v-if="insertion.kind === 'connector' && !insertion.into">
                  of
                  <input v-model.number="insertion.count" class="few" type="number" min="1" max="60" aria-label="How many cavities" />
                  cavities
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
  </div>
</template>

<style scoped src="@/by-hand.css"></style>
