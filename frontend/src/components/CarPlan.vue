<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { amps, fixed } from '@/format'

/** The car from above, nose up: runs with what they carry, loads at their places, lit as they are. */
const props = defineProps<{
  build: BuildView
  readings: Schemas['BenchAnswer'] | undefined
  sizes: Schemas['Results'] | undefined
  red: string | null
  black: string | null
}>()
const emit = defineEmits<{ probe: [load: string] }>()

const SCALE = 150
const WIDTH = 360
const SPREAD = 17

const bounds = computed(() => {
  const xs = props.build.places.map((place) => place.x_m)
  const nose = Math.min(...xs, 0)
  const tail = Math.max(...xs, nose + 1)
  return { nose, tail, height: (tail - nose) * SCALE + 90 }
})
const placed = computed(() => {
  const half = Math.max(...props.build.places.map((place) => Math.abs(place.y_m)), 0.4)
  return Object.fromEntries(
    props.build.places.map((place) => [
      place.id,
      {
        x: WIDTH / 2 + (place.y_m / half) * 110,
        y: 45 + (place.x_m - bounds.value.nose) * SCALE,
      },
    ]),
  )
})
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

/** Loads of one place stand in a row, so that none hides another. */
const loads = computed(() => {
  const rows = props.build.parts.filter((part) => part.kind === 'load')
  return rows.map((part) => {
    const here = rows.filter((other) => other.place === part.place)
    const offset = (here.indexOf(part) - (here.length - 1) / 2) * SPREAD
    const at = placed.value[part.place]!
    const reading = props.readings?.loads[part.id]
    const output = Math.max(0, Math.min(reading?.output_percent ?? 0, 110)) / 100
    return { part, x: at.x + offset, y: at.y, reading, output }
  })
})
const parts = computed(() =>
  props.build.parts
    .filter((part) => part.kind === 'battery' || part.kind === 'panel')
    .map((part) => ({ part, ...placed.value[part.place]! })),
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
    :viewBox="`0 0 ${WIDTH} ${bounds.height}`"
    role="img"
    aria-label="Plan of the car, nose up; the list beside it says the same in words"
  >
    <rect
      class="body"
      x="52"
      y="14"
      :width="WIDTH - 104"
      :height="bounds.height - 28"
      rx="62"
      ry="84"
    />
    <g class="wheels" aria-hidden="true">
      <template v-for="x in [34, WIDTH - 52]" :key="x">
        <rect :x="x" y="104" width="18" height="62" rx="4" />
        <rect :x="x" :y="bounds.height - 170" width="18" height="62" rx="4" />
      </template>
      <text :x="WIDTH / 2" y="31">nose</text>
      <text :x="WIDTH / 2" :y="bounds.height - 20">tail</text>
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
    <g v-for="row in parts" :key="row.part.id">
      <rect class="box" :x="row.x - 27" :y="row.y - 25" width="54" height="19" rx="3" />
      <text class="box-name" :x="row.x" :y="row.y - 11.5">{{ row.part.name }}</text>
    </g>
    <g
      v-for="row in loads"
      :key="row.part.id"
      class="load"
      @click="emit('probe', row.part.id)"
    >
      <title>{{ says(row) }}. Click: voltmeter across it.</title>
      <circle
        v-if="row.output > 0.01"
        class="glow"
        :cx="row.x"
        :cy="row.y"
        :r="11 + row.output * 9"
        :fill="glow(row.part.output_word, row.part.name)"
        :opacity="0.2 + row.output * 0.45"
      />
      <circle class="lamp" :class="{ on: row.output > 0.01 }" :cx="row.x" :cy="row.y" r="6.5" />
      <path
        v-if="row.part.output_word === 'light'"
        class="sign"
        :d="`M${row.x - 4.5} ${row.y - 4.5}l9 9m0 -9l-9 9`"
      />
      <text v-else class="sign-text" :x="row.x" :y="row.y + 3.5">
        {{ row.part.output_word === 'speed' ? 'M' : '·' }}
      </text>
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

.body {
  fill: var(--sheet);
  stroke: var(--quiet);
  stroke-width: 1.3;
}

.run {
  stroke: var(--rule);
  stroke-linecap: round;
  stroke-width: 4;
}

.run.live {
  stroke: color-mix(in srgb, var(--amber) 75%, var(--sheet));
}

.wheels rect {
  fill: none;
  stroke: var(--quiet);
}

.wheels text {
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
  font-size: 11.5px;
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
