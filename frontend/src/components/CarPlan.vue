<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { amps, fixed } from '@/format'
import { frameOf, pointOf } from '@/plan'

import CarOutline from './CarOutline.vue'

/** The car from above, nose up: runs with what they carry, loads at their places, lit as they are. */
const props = defineProps<{
  build: BuildView
  readings: Schemas['BenchAnswer'] | undefined
  sizes: Schemas['Results'] | undefined
  red: string | null
  black: string | null
}>()
const emit = defineEmits<{ probe: [load: string] }>()

const SPREAD = 15
const IN_A_ROW = 4
const LETTER = 5
const BESIDE = 46

const frame = computed(() => frameOf(props.build, BESIDE))
const placed = computed(() =>
  Object.fromEntries(props.build.places.map((place) => [place.id, pointOf(place)])),
)
const CARRYING_A = 0.01
/** Runs with a wire that carries now. */
const carrying = computed(() => {
  const wires = Object.entries(props.readings?.wires ?? {})
  return new Set(
    wires
      .filter(([, current]) => Math.abs(current) > CARRYING_A)
      .flatMap(([wire]) => props.sizes?.wires[wire]?.runs ?? []),
  )
})
const runs = computed(() =>
  props.build.runs.map((run) => ({
    id: run.id,
    live: carrying.value.has(run.id),
    from: placed.value[run.from_place]!,
    to: placed.value[run.to_place]!,
  })),
)

/** Up to four in a row, centred on the place; further rows towards the middle of the car. */
function inRows(index: number, count: number, at: { x: number; y: number }): { x: number; y: number } {
  const row = Math.floor(index / IN_A_ROW)
  const inThisRow = Math.min(count - row * IN_A_ROW, IN_A_ROW)
  const inwards = at.y > props.build.body.length_m * 50 ? -1 : 1
  return {
    x: at.x + ((index % IN_A_ROW) - (inThisRow - 1) / 2) * SPREAD,
    y: at.y + row * SPREAD * inwards,
  }
}

/** Loads of one place stand in a row, so that none hides another. */
const loads = computed(() => {
  const wired = new Set(
    props.build.wires.flatMap((wire) => [wire.from_terminal, wire.to_terminal])
      .map((terminal) => terminal.split('.')[0]),
  )
  const rows = props.build.parts.filter((part) => part.kind === 'load' && wired.has(part.id))
  return rows.map((part) => {
    const here = rows.filter((other) => other.place === part.place)
    const at = placed.value[part.place]!
    const { x, y } = inRows(here.indexOf(part), here.length, at)
    const reading = props.readings?.loads[part.id]
    const output = Math.max(0, Math.min(reading?.output_percent ?? 0, 110)) / 100
    return { part, x, y, reading, output }
  })
})
const parts = computed(() =>
  props.build.parts
    .filter((part) => part.kind === 'battery' || part.kind === 'panel')
    .map((part) => ({
      part,
      half: (part.name.length * LETTER) / 2 + 5,
      ...placed.value[part.place]!,
    })),
)
const probes = computed(() =>
  [
    { colour: 'red', terminal: props.red },
    { colour: 'black', terminal: props.black },
  ].flatMap(({ colour, terminal }) => {
    const part = props.build.parts.find((row) => row.id === terminal?.split('.')[0])
    const at = part && (loads.value.find((row) => row.part.id === part.id) ?? placed.value[part.place])
    return at ? [{ colour, x: at.x, y: at.y }] : []
  }),
)

function glow(word: string | null | undefined, name: string): string {
  if (word !== 'light') return 'var(--amber)'
  return /tail|stop/i.test(name) ? '#e0453a' : '#f2d675'
}

function says(row: (typeof loads.value)[number]): string {
  const { part, reading } = row
  return `${part.name}: ${amps(reading?.amps)}, ${fixed(reading?.output_percent, 0)} % ${part.output_word}`
}
</script>

<template>
  <svg
    class="plan"
    :viewBox="`${frame.x} ${frame.y} ${frame.width} ${frame.height}`"
    role="img"
    aria-label="Plan of the car, nose up; the list beside it says the same in words"
  >
    <CarOutline :body="build.body" />
    <g class="ends" aria-hidden="true">
      <text x="0" :y="frame.y + 16">nose</text>
      <text x="0" :y="frame.y + frame.height - 8">tail</text>
    </g>
    <line
      v-for="run in runs"
      :key="run.id"
      class="run"
      :class="{ live: run.live }"
      :x1="run.from.x"
      :y1="run.from.y"
      :x2="run.to.x"
      :y2="run.to.y"
    />
    <g
      v-for="row in loads"
      :key="row.part.id"
      class="load"
      @click="emit('probe', row.part.id)"
    >
      <title>{{ says(row) }}. Click: voltmeter across it.</title>
      <circle
        v-if="row.reading?.is_on"
        class="glow"
        :cx="row.x"
        :cy="row.y"
        :r="11 + row.output * 9"
        :fill="glow(row.part.output_word, row.part.name)"
        :opacity="0.2 + row.output * 0.45"
      />
      <circle class="lamp" :class="{ on: row.reading?.is_on }" :cx="row.x" :cy="row.y" r="6.5" />
      <path
        v-if="row.part.output_word === 'light'"
        class="sign"
        :d="`M${row.x - 4.5} ${row.y - 4.5}l9 9m0 -9l-9 9`"
      />
      <text v-else class="sign-text" :x="row.x" :y="row.y + 3.5">
        {{ row.part.output_word === 'speed' ? 'M' : '·' }}
      </text>
    </g>
    <g v-for="row in parts" :key="row.part.id">
      <rect
        class="box"
        :x="row.x - row.half"
        :y="row.y - 25"
        :width="2 * row.half"
        height="16"
        rx="3"
      />
      <text class="box-name" :x="row.x" :y="row.y - 13.5">{{ row.part.name }}</text>
    </g>
    <circle
      v-for="probe in probes"
      :key="probe.colour"
      class="probe"
      :class="probe.colour"
      :cx="probe.x"
      :cy="probe.y"
      :r="probe.colour === 'red' ? 10 : 13"
    />
  </svg>
</template>

<style scoped>
.plan {
  display: block;
  height: 100%;
  max-width: 100%;
  margin: 0 auto;
}

.run {
  stroke: var(--rule);
  stroke-linecap: round;
  stroke-width: 4;
}

.run.live {
  stroke: color-mix(in srgb, var(--amber) 75%, var(--sheet));
}

.ends text {
  fill: var(--quiet);
  font-size: 12px;
  text-anchor: middle;
}

.box {
  fill: var(--card);
  stroke: var(--quiet);
}

.box-name,
.sign-text {
  fill: var(--ink);
  font-size: 10px;
  text-anchor: middle;
}

.sign-text {
  font-size: 10px;
  pointer-events: none;
}

.load {
  cursor: pointer;
}

.lamp {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.3;
}

.lamp.on {
  stroke: var(--amber);
  stroke-width: 2;
}

.sign {
  stroke: var(--ink);
  stroke-width: 1.1;
}

.glow {
  transition: opacity 0.25s, r 0.25s;
}

.probe {
  fill: none;
  stroke-width: 2.5;
}

.probe.red {
  stroke: var(--brick);
}

.probe.black {
  stroke: var(--ink);
  stroke-dasharray: 4 2;
}
</style>
