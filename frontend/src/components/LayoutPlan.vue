<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { fixed } from '@/format'
import { frameOf, labelsOf, LETTER, type Point, pointOf, roomFor, UNITS } from '@/plan'

import CarOutline from './CarOutline.vue'

/** Places and runs on the plan: dragged or moved by arrow keys, joined by runs, lit by wires. */
const props = defineProps<{
  build: BuildView
  layout: Schemas['LayoutView'] | undefined
  place: string | null
  run: string | null
  lit: string[]
  joining: string | null
}>()
const emit = defineEmits<{
  place: [id: string]
  run: [id: string]
  move: [id: string, x_m: number, y_m: number]
  join: [first: string, last: string]
  begin: [id: string]
}>()

const GRID_M = 0.05
const FINE_M = 0.01
const MOVED = 4
const KEYS_REST_MS = 450

const svg = ref<SVGSVGElement>()
const dragged = ref<{ id: string; from: Point; at: Point; moved: boolean } | null>(null)
/** Where a place was put, shown until the build says so too. */
const put = ref<{ id: string; at: Point } | null>(null)
let settling: ReturnType<typeof setTimeout> | undefined
watch(
  () => props.build.revision,
  () => (put.value = null),
)
onBeforeUnmount(settle)
const holds = computed(() => {
  const special: Record<string, string[]> = {}
  for (const part of props.build.parts) {
    if (['battery', 'panel', 'module'].includes(part.kind)) {
      special[part.place] = [...(special[part.place] ?? []), part.kind]
    }
  }
  return special
})
const points = computed(() =>
  Object.fromEntries(
    props.build.places.map((place) => [
      place.id,
      [dragged.value, put.value].find((one) => one?.id === place.id)?.at ?? pointOf(place),
    ]),
  ),
)
const names = computed(() =>
  Object.fromEntries(
    props.build.places.map((spot) => [
      spot.id,
      [spot.name, ...new Set(holds.value[spot.id] ?? [])].join(' · '),
    ]),
  ),
)
const labels = computed(() => labelsOf(points.value, names.value, props.build.body.width_m * (UNITS / 2)))
const frame = computed(() =>
  frameOf(props.build, roomFor(props.build, labels.value, names.value)),
)
const runs = computed(() =>
  props.build.runs.map((run) => {
    const wide = props.layout?.runs[run.id]?.diameter_mm ?? 0
    const from = points.value[run.from_place]!
    const to = points.value[run.to_place]!
    return {
      run,
      from,
      to,
      width: Math.max(1.6, Math.min(wide * 0.42, 15)),
      middle: { x: (from.x + to.x) / 2, y: (from.y + to.y) / 2 },
      hazards: run.passes.join(', '),
      says: `${name(run.from_place)} to ${name(run.to_place)}: ${run.length_m} m ${run.measured ? 'measured' : 'guessed'}, bundle ${fixed(wide, 0)} mm`,
    }
  }),
)

const LINE = 13
const MOST_LINES = 22
const UNFOLDED = ['load', 'switch', 'key switch', 'sensor', 'isolator', 'box', 'battery', 'alternator', 'module', 'panel']
/** What the chosen place holds, unfolded on its own side of the car: what does something by name, the rest counted. */
const opened = computed(() => {
  const at = props.place ? points.value[props.place] : undefined
  if (!at || dragged.value?.moved) return null
  const here = props.build.parts.filter((part) => part.place === props.place)
  const named = here.filter((part) => UNFOLDED.includes(part.kind) && !part.housed).map((part) => part.name)
  const lines = named.slice(0, named.length > MOST_LINES ? MOST_LINES - 1 : MOST_LINES)
  if (here.length > lines.length) lines.push(lines.length ? `and ${here.length - lines.length} more` : `${here.length} fuses, relays and the like`)
  if (!lines.length) return null
  const wide = Math.max(...lines.map((line) => line.length)) * LETTER + 16
  const high = lines.length * LINE + 10
  const { x, y, width, height } = frame.value
  const right = at.x > x + width / 2
  const left = right ? Math.min(at.x + 26, x + width - wide - 4) : Math.max(at.x - 26 - wide, x + 4)
  const lowest = y + height - high - 4
  const above = at.y - 16 - high
  const top = at.y + 16 > lowest && above > y ? above : Math.min(at.y + 16, lowest)
  return { at, lines, wide, high, left, top, edge: top < at.y ? top + high : top }
})

function name(place: string): string {
  return props.build.places.find((row) => row.id === place)?.name ?? place
}

function under(event: PointerEvent): Point {
  const matrix = svg.value!.getScreenCTM()!.inverse()
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix)
  return { x: point.x, y: point.y }
}

function snapped(point: Point, grid_m = GRID_M): Point {
  const grid = grid_m * UNITS
  return { x: Math.round(point.x / grid) * grid, y: Math.round(point.y / grid) * grid }
}

function down(id: string, event: PointerEvent): void {
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  const at = points.value[id]!
  dragged.value = { id, from: under(event), at, moved: false }
}

function drag(event: PointerEvent): void {
  const now = dragged.value
  if (!now) return
  const to = under(event)
  if (!now.moved && Math.hypot(to.x - now.from.x, to.y - now.from.y) < MOVED) return
  dragged.value = { ...now, at: snapped(to), moved: true }
}

function up(): void {
  const now = dragged.value
  dragged.value = null
  if (!now) return
  if (!now.moved) return chosen(now.id)
  put.value = { id: now.id, at: now.at }
  settle()
}

/** Tell of the move once the hand or the keys rest, so that a long way is one step to undo. */
function settle(): void {
  clearTimeout(settling)
  const now = put.value
  if (now) emit('move', now.id, now.at.y / UNITS, now.at.x / UNITS)
}

function chosen(id: string): void {
  if (props.joining && props.joining !== id) emit('join', props.joining, id)
  else emit('place', id)
}

function pressed(id: string, event: KeyboardEvent): void {
  const steps: Record<string, Point> = {
    ArrowUp: { x: 0, y: -1 },
    ArrowDown: { x: 0, y: 1 },
    ArrowLeft: { x: -1, y: 0 },
    ArrowRight: { x: 1, y: 0 },
  }
  const step = steps[event.key]
  const grid_m = event.shiftKey ? FINE_M : GRID_M
  if (step && !event.altKey) {
    event.preventDefault()
    const at = points.value[id]!
    const to = snapped({ x: at.x + step.x * grid_m * UNITS, y: at.y + step.y * grid_m * UNITS }, grid_m)
    if (put.value && put.value.id !== id) settle()
    put.value = { id, at: to }
    clearTimeout(settling)
    settling = setTimeout(settle, KEYS_REST_MS)
  } else if (event.key === 'Enter' || event.key === ' ') {
    event.preventDefault()
    chosen(id)
  } else if (event.key.toLowerCase() === 'j') {
    event.preventDefault()
    event.stopPropagation()
    if (props.joining) chosen(id)
    else emit('begin', id)
  }
}
</script>

<template>
  <svg
    ref="svg"
    :viewBox="`${frame.x} ${frame.y} ${frame.width} ${frame.height}`"
    role="group"
    aria-label="Plan of the car, nose up. The tables beside it say the same."
    @pointermove="drag"
    @pointerup="up"
  >
    <CarOutline :body="build.body" />
    <text class="end" x="0" :y="frame.y + 16">nose</text>
    <text class="end" x="0" :y="frame.y + frame.height - 8">tail</text>
    <g v-for="row in runs" :key="row.run.id" class="run" :class="{ chosen: run === row.run.id, lit: lit.includes(row.run.id), guess: !row.run.measured }" @click="emit('run', row.run.id)">
      <title>{{ row.says }}</title>
      <line class="grip" :x1="row.from.x" :y1="row.from.y" :x2="row.to.x" :y2="row.to.y" />
      <line class="stroke" :stroke-width="row.width" :x1="row.from.x" :y1="row.from.y" :x2="row.to.x" :y2="row.to.y" />
      <g v-if="row.hazards" class="hazard">
        <title>passes {{ row.hazards }}</title>
        <path :d="`M ${row.middle.x} ${row.middle.y - 7} l 7 12 h -14 z`" />
        <text :x="row.middle.x" :y="row.middle.y + 3.6">!</text>
      </g>
    </g>
    <g
      v-for="spot in build.places"
      :key="spot.id"
      class="place"
      :class="{ chosen: place === spot.id, first: joining === spot.id }"
      role="button"
      tabindex="0"
      :aria-label="`${spot.name}, ${spot.level}. Arrow keys move it, Enter chooses it, J joins it by a run.`"
      :aria-pressed="place === spot.id"
      @pointerdown="down(spot.id, $event)"
      @keydown="pressed(spot.id, $event)"
    >
      <circle class="grip" :cx="points[spot.id]!.x" :cy="points[spot.id]!.y" r="12" />
      <rect
        v-if="holds[spot.id]"
        class="dot"
        :x="points[spot.id]!.x - 7"
        :y="points[spot.id]!.y - 7"
        width="14"
        height="14"
        rx="2"
      />
      <circle v-else class="dot" :class="spot.level" :cx="points[spot.id]!.x" :cy="points[spot.id]!.y" r="5.5" />
      <text
        :x="labels[spot.id]!.x"
        :y="labels[spot.id]!.y"
        :text-anchor="labels[spot.id]!.anchor"
      >
        {{ spot.name }}<tspan v-if="holds[spot.id]" class="holds">&nbsp;· {{ [...new Set(holds[spot.id])].join(', ') }}</tspan>
      </text>
    </g>
    <g v-if="opened" class="opened" aria-hidden="true">
      <line :x1="opened.at.x" :y1="opened.at.y" :x2="Math.min(Math.max(opened.at.x, opened.left), opened.left + opened.wide)" :y2="opened.edge" />
      <rect :x="opened.left" :y="opened.top" :width="opened.wide" :height="opened.high" rx="3" />
      <text v-for="(line, n) in opened.lines" :key="n" :x="opened.left + 8" :y="opened.top + 5 + LINE * (n + 0.5) + 3.6">{{ line }}</text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  height: 100%;
  user-select: none;
}

text {
  fill: var(--ink);
  font-size: 10.5px;
}

.end {
  fill: var(--quiet);
  text-anchor: middle;
}

.run {
  cursor: pointer;
}

.run .grip {
  stroke: transparent;
  stroke-width: 16;
}

.stroke {
  stroke: color-mix(in srgb, var(--copper) 45%, var(--sheet));
  stroke-linecap: round;
}

.guess .stroke {
  stroke-dasharray: 7 6;
}

.run.lit .stroke {
  stroke: var(--amber);
}

.run.chosen .stroke {
  stroke: var(--copper);
}

.hazard path {
  fill: var(--sheet);
  stroke: var(--ochre);
  stroke-linejoin: round;
  stroke-width: 1.4;
}

.hazard text {
  fill: var(--ochre);
  font-size: 9px;
  font-weight: 700;
  text-anchor: middle;
}

.place {
  cursor: grab;
  touch-action: none;
}

.place .grip {
  fill: transparent;
}

.dot {
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.6;
}

.dot.floor {
  stroke-dasharray: 2.5 2;
}

.dot.roof {
  stroke-width: 3.4;
}

.place.chosen .dot,
.place:focus-visible .dot {
  fill: var(--copper);
  stroke: var(--copper);
}

.place.first .dot {
  fill: var(--amber);
}

.place:focus-visible {
  outline: none;
}

.place:focus-visible .grip {
  stroke: var(--amber);
  stroke-width: 2;
}

.place text {
  paint-order: stroke;
  pointer-events: none;
  stroke: color-mix(in srgb, var(--paper) 85%, transparent);
  stroke-width: 3px;
}

.opened {
  pointer-events: none;
}

.opened line {
  stroke: var(--copper);
}

.opened rect {
  fill: var(--sheet);
  stroke: var(--copper);
}

.holds {
  fill: var(--copper);
  font-weight: 600;
}
</style>
