<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { byId } from '@/byId'
import { apart, levels, lightOf, throwsBeam } from '@/benchPlan'
import { amps, fixed } from '@/format'
import { frameOf, type Point, pointOf, UNITS } from '@/plan'
import { useElementSize } from '@/size'
import { useLive } from '@/stores/live'

import CarOutline from './CarOutline.vue'

/** The car from above, nose up: lamps as bright as they are, what turns, and runs by what they carry.
 * By keyboard the list of loads does what a press on a load does here, without fifty stops on the way. */
const props = defineProps<{
  build: BuildView
  results: Schemas['Results'] | undefined
  chosen: string | null
  byHeat: boolean
}>()
const emit = defineEmits<{ choose: [part: string | null] }>()

const RADIUS = 8
const SMALL_RADIUS = 4.5
const MANY = 120
const CLEAR_PX = 1.5
const LINE_PX = 17
const COLUMN_PX = 166
const LETTER_PX = 5.4
const MARGIN_PX = 10
const LEAST_CAR_PX = 160
const CARRIES_A = 0.02
const HOT_C = 60
const SWEEP_DEG = 110

const live = useLive()
const { width, height } = useElementSize(useTemplateRef<HTMLElement>('plan'))
const pointed = ref<string | null>(null)

const wired = computed(
  () => new Set(props.build.wires.flatMap((wire) => [wire.from_terminal, wire.to_terminal]).map((end) => end.split('.')[0]!)),
)
/** Wired itself, or behind the pins of a unit that is. */
const isThere = (part: Schemas['PartView']) => wired.value.has(part.id) || (part.housed && wired.value.has(part.housed.unit))
const loads = computed(() => props.build.parts.filter((part) => part.kind === 'load' && isThere(part)))
const boxes = computed(() => props.build.parts.filter((part) => ['battery', 'panel', 'module', 'alternator'].includes(part.kind)))

const frame = computed(() => frameOf(props.build, 14))
const beside = computed(() => (width.value > 2 * COLUMN_PX + LEAST_CAR_PX ? COLUMN_PX : 0))
const scale = computed(() =>
  Math.max(Math.min((width.value - 2 * beside.value - 2 * MARGIN_PX) / frame.value.width, (height.value - 2 * MARGIN_PX) / frame.value.height), 0.2),
)
const shift = computed(() => ({
  x: width.value / 2,
  y: MARGIN_PX - frame.value.y * scale.value + (height.value - 2 * MARGIN_PX - frame.value.height * scale.value) / 2,
}))
const px = (point: Point): Point => ({ x: shift.value.x + point.x * scale.value, y: shift.value.y + point.y * scale.value })

const places = computed(() => new Map(props.build.places.map((place) => [place.id, px(pointOf(place))])))
const radius = computed(() => (loads.value.length > MANY ? SMALL_RADIUS : RADIUS))
/** Where each thing stands: at its place, fanned out where others are there too. */
const at = computed(() => {
  const points: Record<string, Point> = {}
  for (const part of [...boxes.value, ...loads.value]) {
    const place = places.value.get(part.place)
    if (place) points[part.id] = place
  }
  return apart(points, 2 * radius.value + CLEAR_PX)
})

const percentOf = (id: string) => live.frame?.load_percent[live.loadAt.get(id) ?? -1] ?? 0
const ampsOf = (id: string) => live.calm?.load_a[live.loadAt.get(id) ?? -1]
const calmPercent = (id: string) => live.calm?.load_percent[live.loadAt.get(id) ?? -1] ?? 0

const lights = computed(() => [...new Set(loads.value.map((part) => lightOf(part.name)))])
const shown = computed(() =>
  loads.value.map((part) => {
    const share = Math.min(percentOf(part.id), 115) / 100
    return {
      part,
      ...at.value[part.id]!,
      share,
      isLight: part.output_word === 'light',
      light: lightOf(part.name),
      beam: throwsBeam(part.name) && share > 0.04,
      turns: part.output_word === 'speed',
      pointer: live.frame?.pointers[part.id]?.percent,
    }
  }),
)

/** Names beside the car, on the side of what they name: all where there is room, else first what does
 * something now. */
const names = computed(() => {
  if (!beside.value) return []
  const room = Math.floor((height.value - 2 * MARGIN_PX) / LINE_PX)
  const rows = [...loads.value, ...boxes.value]
  const half = (left: boolean) => rows.filter((part) => (at.value[part.id]?.x ?? 0) < shift.value.x === left)
  return [true, false].flatMap((left) => {
    let side = half(left)
    if (side.length > room) {
      const alive = (part: Schemas['PartView']) => live.on.has(part.id) || part.kind !== 'load'
      const named = new Set([...side.filter(alive), ...side.filter((part) => !alive(part))].slice(0, room))
      side = side.filter((part) => named.has(part))
    }
    const level = levels(side.map((part) => at.value[part.id]!.y), LINE_PX, MARGIN_PX + LINE_PX / 2, height.value - MARGIN_PX)
    const edge = left ? COLUMN_PX - 4 : width.value - COLUMN_PX + 4
    return side.map((part, n) => ({ part, left, x: edge, y: level[n]!, from: at.value[part.id]! }))
  })
})
const named = computed(() => new Set(names.value.map((row) => row.part.id)))

function shortened(name: string): string {
  const most = Math.floor((COLUMN_PX - 46) / LETTER_PX)
  return name.length > most ? `${name.slice(0, most - 1)}…` : name
}

function does(part: Schemas['PartView']): string {
  if (part.kind === 'battery') return `${fixed(live.calm?.battery_v, 2)} V`
  if (part.kind === 'alternator') return live.calm?.alternator_a ? `${fixed(live.calm.alternator_a, 0)} A` : ''
  if (part.kind !== 'load') return ''
  if (part.output_word === 'current') return live.calm?.pointers[part.id]?.words ?? ''
  return live.on.has(part.id) ? `${fixed(calmPercent(part.id), 0)} %` : ''
}

function says(part: Schemas['PartView']): string {
  return part.kind === 'load' ? `${part.name}: ${amps(ampsOf(part.id))}, ${live.doing(part)}` : part.name
}

/** From its rest at the left over the top of its dial to the right. */
const pointerAngle = (percent: number | undefined) => ((percent ?? 0) / 100 - 0.5) * SWEEP_DEG

/** The circuit of what is chosen: its wires are the way of its current. */
const way = computed(() => {
  const part = byId(props.build.parts).get(props.chosen)
  if (!part?.circuit) return null
  return new Set(props.build.wires.filter((wire) => wire.circuit === part.circuit).map((wire) => wire.id))
})

/** Each run with the most that a wire in it carries, its hottest wire, and whether it is on the way. */
const runs = computed(() => {
  const most = new Map<string, { amps: number; hot: number; way: boolean }>()
  for (const [wire, n] of live.wireAt) {
    const along = props.results?.wires[wire]?.runs ?? []
    const carried = Math.abs(live.calm?.wire_a[n] ?? 0)
    const warm = live.calm?.wire_c[n] ?? 0
    for (const run of along) {
      const row = most.get(run) ?? { amps: 0, hot: 0, way: false }
      row.amps = Math.max(row.amps, carried)
      row.hot = Math.max(row.hot, warm)
      row.way ||= carried > CARRIES_A && (way.value?.has(wire) ?? false)
      most.set(run, row)
    }
  }
  return props.build.runs.map((run) => {
    const row = most.get(run.id) ?? { amps: 0, hot: 0, way: false }
    return {
      id: run.id,
      from: places.value.get(run.from_place)!,
      to: places.value.get(run.to_place)!,
      ...row,
      live: row.amps > CARRIES_A,
      wide: 2 + Math.min(Math.sqrt(row.amps), 8) * 0.75,
      share: Math.min(Math.max((row.hot - HOT_C) / 60, 0), 1),
    }
  })
})

const probes = computed(() =>
  Object.entries(live.session?.meters ?? {}).flatMap(([name, meter]) =>
    (['red', 'black'] as const).flatMap((colour) => {
      const part = meter[colour]?.split('.')[0]
      const owner = byId(props.build.parts).get(part)
      const point = owner && (at.value[owner.id] ?? places.value.get(owner.place))
      return point ? [{ key: name + colour, name, colour, ...point }] : []
    }),
  ),
)
/** The blades of each wiper, as an angle across the screen. */
const blades = computed(() =>
  Object.entries(live.frame?.blades ?? {}).map(([cam, turn]) => {
    const axle = props.build.body.front_axle_m * UNITS + 52
    return { cam, angle: -84 + ((1 - Math.cos(turn * 2 * Math.PI)) / 2) * 100, y: axle }
  }),
)
const beamLength = computed(() => Math.min(150, shift.value.y + frame.value.y * scale.value + 70))
</script>

<template>
  <div ref="plan" class="plan">
    <svg
      v-if="width > 0"
      :width="width"
      :height="height"
      role="group"
      aria-label="Plan of the car, nose up; the list of loads says the same in words"
      @click.self="emit('choose', null)"
    >
      <defs>
        <radialGradient v-for="(light, n) in lights" :id="`bench-glow-${n}`" :key="light">
          <stop offset="0" :stop-color="light" stop-opacity="0.95" />
          <stop offset="0.3" :stop-color="light" stop-opacity="0.55" />
          <stop offset="1" :stop-color="light" stop-opacity="0" />
        </radialGradient>
        <linearGradient id="bench-beam" x1="0" y1="1" x2="0" y2="0">
          <stop offset="0" stop-color="#fff0bf" stop-opacity="0.75" />
          <stop offset="1" stop-color="#fff0bf" stop-opacity="0" />
        </linearGradient>
      </defs>
      <g :transform="`translate(${shift.x} ${shift.y}) scale(${scale})`">
        <CarOutline :body="build.body" />
      </g>
      <g aria-hidden="true">
        <template v-for="run in runs" :key="run.id">
          <line
            class="run"
            :class="{ live: run.live && !byHeat, way: run.way, hot: byHeat }"
            :x1="run.from.x"
            :y1="run.from.y"
            :x2="run.to.x"
            :y2="run.to.y"
            :stroke-width="run.live || byHeat ? run.wide : 1.5"
            :style="byHeat ? { stroke: `color-mix(in srgb, var(--brick) ${fixed(run.share * 100, 0)}%, var(--rule))` } : undefined"
          />
        </template>
      </g>
      <g class="glows" aria-hidden="true">
        <template v-for="row in shown" :key="row.part.id">
          <path
            v-if="row.beam"
            fill="url(#bench-beam)"
            :opacity="Math.min(row.share, 1)"
            :d="`M${row.x - 5} ${row.y} L${row.x - 34} ${row.y - beamLength} H${row.x + 34} L${row.x + 5} ${row.y} Z`"
          />
          <circle
            v-if="row.isLight && row.share > 0.005"
            :cx="row.x"
            :cy="row.y"
            :r="radius + 6 + 20 * Math.sqrt(Math.min(row.share, 1))"
            :fill="`url(#bench-glow-${lights.indexOf(row.light)})`"
            :opacity="0.15 + 0.85 * Math.min(row.share, 1)"
          />
        </template>
      </g>
      <g class="leaders" aria-hidden="true">
        <path
          v-for="row in names"
          :key="row.part.id"
          :d="`M${row.x} ${row.y} L${row.from.x + (row.left ? -radius : radius)} ${row.from.y}`"
          :class="{ on: row.part.id === chosen || row.part.id === pointed, alive: live.on.has(row.part.id) }"
        />
      </g>
      <g
        v-for="row in shown"
        :key="row.part.id"
        class="load"
        :class="{ on: row.share >= 0.02, chosen: row.part.id === chosen }"
        role="button"
        tabindex="-1"
        :aria-label="says(row.part)"
        @click="emit('choose', row.part.id)"
        @keydown.enter.space.prevent="emit('choose', row.part.id)"
        @pointerenter="pointed = row.part.id"
        @pointerleave="pointed = null"
      >
        <circle class="touch" :cx="row.x" :cy="row.y" :r="radius + 3" />
        <circle class="body" :cx="row.x" :cy="row.y" :r="radius" />
        <path v-if="row.isLight" class="sign" :d="`M${row.x - radius * 0.7} ${row.y - radius * 0.7}l${radius * 1.4} ${radius * 1.4}m0 ${-radius * 1.4}l${-radius * 1.4} ${radius * 1.4}`" />
        <g v-else-if="row.turns" :transform="`translate(${row.x} ${row.y})`">
          <path
            class="rotor"
            :class="{ turning: row.share > 0.05 }"
            :style="row.share > 0.05 ? { animationDuration: `${fixed(0.5 / row.share, 2)}s` } : undefined"
            :d="`M0 ${-radius * 0.75} L${radius * 0.3} 0 L0 ${radius * 0.75} L${-radius * 0.3} 0 Z`"
          />
        </g>
        <path
          v-else-if="row.part.output_word === 'current'"
          class="sign pointer"
          :d="`M0 ${radius * 0.2}V${-radius * 0.85}`"
          :style="{ transform: `translate(${row.x}px, ${row.y}px) rotate(${pointerAngle(row.pointer)}deg)` }"
        />
        <rect v-else class="sign" :x="row.x - radius * 0.4" :y="row.y - radius * 0.4" :width="radius * 0.8" :height="radius * 0.8" />
      </g>
      <g v-for="part in boxes" :key="part.id" class="box" :class="{ chosen: part.id === chosen }" role="button" tabindex="-1" :aria-label="part.name" @click="emit('choose', part.id)" @keydown.enter.space.prevent="emit('choose', part.id)">
        <rect :x="at[part.id]!.x - radius" :y="at[part.id]!.y - radius" :width="2 * radius" :height="2 * radius" rx="2" />
        <path v-if="part.kind === 'battery'" :d="`M${at[part.id]!.x - 4} ${at[part.id]!.y}h8m-4 -4v8`" />
        <path v-else :d="`M${at[part.id]!.x - 4} ${at[part.id]!.y - 2.5}h8m-8 5h8`" />
      </g>
      <g :transform="`translate(${shift.x} ${shift.y}) scale(${scale})`" class="blades" aria-hidden="true">
        <g v-for="row in blades" :key="row.cam">
          <line v-for="x in [-30, 26]" :key="x" :x1="x" :y1="row.y" :x2="x" :y2="row.y - 44" :transform="`rotate(${row.angle} ${x} ${row.y})`" />
        </g>
      </g>
      <g v-for="row in names" :key="row.part.id" class="name" :class="{ on: live.on.has(row.part.id), chosen: row.part.id === chosen }" @click="emit('choose', row.part.id)">
        <title>{{ says(row.part) }}</title>
        <text :x="row.x + (row.left ? -4 : 4)" :y="row.y + 4" :text-anchor="row.left ? 'end' : 'start'">
          <tspan v-if="row.left && does(row.part)" class="does">{{ does(row.part) }}&#160;</tspan>
          <tspan>{{ shortened(row.part.name) }}</tspan>
          <tspan v-if="!row.left && does(row.part)" class="does">&#160;{{ does(row.part) }}</tspan>
        </text>
      </g>
      <text v-if="pointed && !named.has(pointed)" class="tip" :x="at[pointed]!.x" :y="at[pointed]!.y - radius - 6">
        {{ byId(build.parts).get(pointed)?.name }}
      </text>
      <g v-for="probe in probes" :key="probe.key" class="probe" :class="probe.colour">
        <circle :cx="probe.x" :cy="probe.y" :r="radius + (probe.colour === 'red' ? 4 : 7)" />
      </g>
    </svg>
  </div>
</template>

<style scoped>
.plan {
  position: relative;
  overflow: hidden;
  height: 100%;
}

svg {
  position: absolute;
  inset: 0;
}

.run {
  stroke: var(--rule);
  stroke-linecap: round;
}

.run.live {
  stroke: color-mix(in srgb, var(--amber) 62%, var(--paper));
}

.run.way {
  stroke: var(--amber);
}

.blades {
  pointer-events: none;
}

.blades line {
  stroke: var(--ink);
  stroke-linecap: round;
  stroke-width: 2;
}

.glows {
  mix-blend-mode: multiply;
}

.glows > * {
  transition:
    opacity 40ms linear,
    r 40ms linear;
}

:root[data-look='dark'] .glows {
  mix-blend-mode: screen;
}

.leaders path {
  fill: none;
  stroke: var(--rule);
  stroke-width: 1;
}

.leaders path {
  opacity: 0.35;
}

.leaders path.alive {
  opacity: 1;
}

.leaders path.on {
  opacity: 1;
  stroke: var(--copper);
}

.load,
.box,
.name {
  cursor: pointer;
}

.touch {
  fill: transparent;
}

.body {
  fill: var(--sheet);
  fill-opacity: 0.65;
  stroke: var(--quiet);
  stroke-width: 1.2;
}

.load.on .body {
  fill-opacity: 0.2;
  stroke: var(--amber);
  stroke-width: 1.8;
}

.load.chosen .body,
.box.chosen rect {
  stroke: var(--copper);
  stroke-width: 2.6;
}

.sign,
.rotor {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1;
}

.pointer {
  stroke-width: 1.6;
  transition: transform 200ms linear;
}

.rotor {
  fill: var(--quiet);
  stroke: none;
}

.rotor.turning {
  animation: turn 1s linear infinite;
  fill: var(--amber);
}

@keyframes turn {
  to {
    transform: rotate(360deg);
  }
}

.box rect {
  fill: var(--card);
  stroke: var(--ink);
  stroke-width: 1.3;
}

.box path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.2;
}

.name text {
  fill: var(--quiet);
  font-size: 11.5px;
}

.name.on text {
  fill: var(--ink);
}

.name.on .does {
  fill: var(--amber-ink);
  font-weight: 600;
}

.name.chosen text {
  fill: var(--copper);
  font-weight: 600;
}

.tip {
  fill: var(--ink);
  font-size: 12px;
  font-weight: 600;
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 4px;
  text-anchor: middle;
  pointer-events: none;
}

.probe {
  pointer-events: none;
}

.probe circle {
  fill: none;
  stroke-width: 2.2;
}

.probe.red circle {
  stroke: var(--brick);
}

.probe.black circle {
  stroke: var(--ink);
  stroke-dasharray: 4 3;
}
</style>
