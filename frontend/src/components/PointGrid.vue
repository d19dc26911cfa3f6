<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import type { Asked, BuildView, Schemas } from '@/api/client'
import { usePartsCatalogue } from '@/colours'

/** Pins of a box, cavities of a connector, ways of a panel or channels of a module, as a grid. */
const props = defineProps<{ build: BuildView; part: Schemas['PartView'] }>()
const emit = defineEmits<{ save: [points: Point[], label: string] }>()

type Point = Required<Asked<'set_points'>['points'][number]>

const WORDS: Record<string, string> = { box: 'pin', connector: 'cavity', panel: 'way', module: 'channel' }
const MANY: Record<string, string> = { box: 'pins', connector: 'cavities', panel: 'ways', module: 'channels' }

const { data: catalogue } = usePartsCatalogue()
const draft = ref<Point[]>([])
const word = computed(() => WORDS[props.part.kind] ?? 'pin')
const does = computed(() => ['box', 'module'].includes(props.part.kind))
const switched = computed(() => catalogue.value?.switched_functions ?? [])
const functions = computed(() => [...(props.part.kind === 'module' ? ['channel'] : []), ...(catalogue.value?.pin_functions ?? [])])
const changed = computed(() => JSON.stringify(draft.value) !== JSON.stringify(stored()))

/** What lands on each point: labels of wires, the fuse of a way, what is inside. */
const landing = computed(() => {
  const on = new Map<string, string[]>()
  const add = (name: string, said: string) => on.set(name, [...(on.get(name) ?? []), said])
  for (const wire of props.build.wires) {
    for (const end of [wire.from_terminal, wire.to_terminal]) {
      const [part, name] = [end.slice(0, end.indexOf('.')), end.slice(end.indexOf('.') + 1)]
      if (part === props.part.id) add(props.part.kind === 'connector' ? name.slice(0, -1) : name, wire.label)
    }
  }
  for (const part of props.build.parts) {
    if (part.fitted?.panel === props.part.id) add(part.fitted.way, part.name)
    if (part.housed?.unit === props.part.id) for (const pin of Object.values(part.housed.pins)) add(pin, part.name)
  }
  return new Map([...on].map(([name, said]) => [name, [...new Set(said)].join(', ')]))
})

watch(() => [props.part.pins, props.part.ways], read, { immediate: true, deep: true })

function stored(): Point[] {
  const ways = props.part.ways.map((way): Point => ({
    name: way.name,
    was: way.name,
    function: props.part.kind === 'module' ? 'channel' : '',
    bus: way.bus,
    when: way.when,
    limit_a: way.limit_a,
  }))
  const pins = props.part.pins.map((pin) => ({ ...pin, was: pin.name, bus: '' }))
  return [...ways, ...pins]
}

function read(): void {
  draft.value = stored()
}

/** The next point: named by the next number after the last one's, and doing what that does. */
function add(): void {
  const last = draft.value.at(-1)
  const taken = new Set(draft.value.map((row) => row.name))
  const [, stem = '', figure = '0'] = /^(.*?)(\d*)$/.exec(last?.name ?? '') ?? []
  let number = Number(figure) + 1
  while (taken.has(`${stem}${number}`)) number++
  draft.value.push({ name: `${stem}${number}`, was: null, function: last?.function ?? '', bus: last?.bus ?? '', when: '', limit_a: null })
}

function save(): void {
  const points = draft.value.map((row) => ({ ...row, limit_a: row.limit_a || null }))
  emit('save', points, `${MANY[props.part.kind]} of ${props.part.name}`.replace(/^./, (letter) => letter.toUpperCase()))
}
</script>

<template>
  <form class="points" :aria-label="`${MANY[part.kind]} of ${part.name}`" @submit.prevent="save">
    <table>
      <caption v-if="part.kind === 'panel'" class="quiet">All ways of {{ part.name }}, whatever feeds them</caption>
      <thead>
        <tr>
          <th scope="col">{{ word }}</th>
          <th v-if="does" scope="col">does</th>
          <th v-if="part.kind === 'panel'" scope="col">fed by</th>
          <th v-if="does" scope="col">on when</th>
          <th v-if="does" scope="col" class="figure">at most, A</th>
          <th scope="col">lands here</th>
          <th scope="col"><span class="visually-hidden">Take out</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, index) in draft" :key="index">
          <td><input v-model="row.name" class="short" maxlength="23" required :aria-label="`Name of ${word} ${index + 1}`" /></td>
          <td v-if="does">
            <select v-model="row.function" :aria-label="`What ${row.name} does`">
              <option v-for="one in functions" :key="one" :value="one">{{ one || 'nothing said' }}</option>
            </select>
          </td>
          <td v-if="part.kind === 'panel'"><input v-model="row.bus" class="bus" maxlength="23" :aria-label="`Bus of ${row.name}`" /></td>
          <td v-if="does">
            <input v-if="switched.includes(row.function)" v-model="row.when" class="condition" maxlength="300" placeholder="never" :aria-label="`${row.name} is on when`" />
          </td>
          <td v-if="does" class="figure">
            <input
              v-if="switched.includes(row.function)"
              v-model.number="row.limit_a"
              class="short figure"
              type="number"
              min="0.1"
              max="1000"
              step="any"
              :aria-label="`${row.name} at most, A`"
            />
          </td>
          <td class="quiet landing">{{ row.was === null ? 'new' : (landing.get(row.was) ?? 'free') }}</td>
          <td>
            <button
              type="button"
              class="out"
              :disabled="row.was !== null && landing.has(row.was)"
              :title="row.was !== null && landing.has(row.was) ? 'Take what lands here off first' : 'Take out'"
              :aria-label="`Take out ${word} ${row.name}`"
              @click="draft.splice(index, 1)"
            >
              ✕
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <div class="more">
      <button type="button" class="out" @click="add">+ {{ word }}</button>
      <span v-if="does" class="quiet">a condition names inputs and switches: ignition and (coolant_c &gt; 92 or fan_switch)</span>
      <AButton size="small" type="primary" html-type="submit" :disabled="!changed">Save {{ MANY[part.kind] }}</AButton>
      <AButton size="small" :disabled="!changed" @click="read">As before</AButton>
    </div>
  </form>
</template>

<style scoped src="@/inside.css"></style>

<style scoped>
.points {
  padding: 6px 10px 8px;
}

th,
td {
  padding: 0 4px;
  white-space: nowrap;
}

.landing {
  max-width: 210px;
  white-space: normal;
}

input.short {
  width: 64px;
}

input.bus {
  width: 92px;
}

caption {
  caption-side: top;
  text-align: left;
}

thead th::first-letter {
  text-transform: uppercase;
}

input.condition {
  width: 190px;
}

.out:disabled {
  color: var(--rule);
  cursor: default;
}
</style>
