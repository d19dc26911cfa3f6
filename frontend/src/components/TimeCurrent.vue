<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { fixed, lasting } from '@/format'

/** Protection, the wires that it guards and the loads behind it, on logarithms of current and time. */
const props = defineProps<{ curves: Schemas['TimeCurrentView'] }>()

const PAPER = { width: 640, height: 380, left: 62, right: 16, top: 14, bottom: 40 }
const SECONDS = { least: 0.001, most: 100_000 }
const chosen = ref<string | null>(null)

const span = computed(() => {
  const running = props.curves.loads.map((row) => row.running_a).filter((at) => at > 0.01)
  const low = Math.min(props.curves.rating_a * 0.5, ...running)
  return { least: 10 ** Math.floor(Math.log10(low)), most: props.curves.rating_a * 42 }
})

function x(amps: number): number {
  const share = Math.log(amps / span.value.least) / Math.log(span.value.most / span.value.least)
  return PAPER.left + share * (PAPER.width - PAPER.left - PAPER.right)
}

function y(seconds: number): number {
  const share = Math.log(seconds / SECONDS.least) / Math.log(SECONDS.most / SECONDS.least)
  return PAPER.height - PAPER.bottom - share * (PAPER.height - PAPER.top - PAPER.bottom)
}

const points = (curve: Schemas['CurveView']) => curve.amps.map((at, n) => `${x(at)},${y(curve.seconds[n]!)}`).join(' ')
const band = computed(() => {
  const { least, most } = props.curves
  const back = [...most.amps.keys()].reverse().map((n) => `${x(most.amps[n]!)},${y(most.seconds[n]!)}`)
  return `${points(least)} ${back.join(' ')}`
})

const DECADES = [0.1, 1, 10, 100, 1000, 10_000]
const across = computed(() => DECADES.filter((at) => at >= span.value.least && at <= span.value.most))
const up: [number, string][] = [
  [0.001, '1 ms'],
  [0.01, '10 ms'],
  [0.1, '0.1 s'],
  [1, '1 s'],
  [10, '10 s'],
  [60, '1 min'],
  [600, '10 min'],
  [3600, '1 h'],
  [86_400, '1 day'],
]

const loads = computed(() => props.curves.loads.filter((row) => row.running_a > 0.01))
const worstWire = computed(() => props.curves.wires.find((row) => row.wire === props.curves.worst_wire))
const worst = computed(() => {
  const wire = worstWire.value
  const at = wire?.curve.amps.findIndex((amps) => amps === props.curves.worst_a) ?? -1
  return wire && at >= 0 ? { x: x(wire.curve.amps[at]!), y: y(wire.curve.seconds[at]!) } : null
})
const times = (margin: number) => (margin < 0.01 ? 'less than 0.01' : fixed(margin, margin < 1 ? 2 : margin < 10 ? 1 : 0))
const verdict = computed(() => {
  const { margin, worst_a: amps, name, rating_a: rating } = props.curves
  if (margin === null || !worstWire.value) return `Nothing behind ${name} is reached by its slowest curve on this sheet.`
  const said = `wire ${worstWire.value.label}, ${worstWire.value.size}, bears ${fixed(amps, 0)} A ${times(margin)} times as long as ${name} ${rating} A may take`
  return props.curves.guards ? `Worst point: ${said}.` : `Worst point: ${said}. In a fault it is at its limit before the fuse parts.`
})
const hardest = computed(() => {
  const { start, survives } = props.curves
  if (!start) return ''
  const names = start.loads.map((row) => row.name).join(', ')
  const does = start.at_the_stop ? 'at the end stop' : 'starting'
  const said = `Hardest start: ${names} ${does}, ${fixed(start.amps, 0)} A as if for ${lasting(start.seconds)}; a fuse of its kind bears ${lasting(start.bears_s)}`
  return survives ? `${said}.` : `${said}. It must be twice as long.`
})
</script>

<template>
  <figure>
    <p class="verdict" :class="{ bad: !curves.guards }" role="status">{{ verdict }}</p>
    <p v-if="hardest" class="verdict" :class="{ bad: !curves.survives }">{{ hardest }}</p>
    <svg :viewBox="`0 0 ${PAPER.width} ${PAPER.height}`" role="img" :aria-label="`Time and current of ${curves.name}. ${verdict}`">
      <g class="grid">
        <template v-for="at in across" :key="at">
          <line :x1="x(at)" :x2="x(at)" :y1="PAPER.top" :y2="PAPER.height - PAPER.bottom" />
          <text :x="x(at)" :y="PAPER.height - PAPER.bottom + 15" text-anchor="middle">{{ at }} A</text>
        </template>
        <template v-for="[at, said] in up" :key="at">
          <line :x1="PAPER.left" :x2="PAPER.width - PAPER.right" :y1="y(at)" :y2="y(at)" />
          <text :x="PAPER.left - 6" :y="y(at) + 4" text-anchor="end">{{ said }}</text>
        </template>
      </g>
      <polygon class="band" :points="band" />
      <polyline class="edge" :points="points(curves.least)" />
      <polyline class="edge" :points="points(curves.most)" />
      <g v-for="row in curves.wires" :key="row.wire" class="wire" :class="{ chosen: chosen === row.wire }">
        <polyline :points="points(row.curve)" />
      </g>
      <g v-for="row in loads" :key="row.load" class="load" :class="{ chosen: chosen === row.load }">
        <circle :cx="x(row.running_a)" :cy="y(3600)" r="3.5" />
        <template v-if="row.inrush_s > 0">
          <line :x1="x(row.running_a)" :y1="y(3600)" :x2="x(row.running_a)" :y2="y(Math.max(row.inrush_s, 0.001))" />
          <line :x1="x(row.running_a)" :y1="y(Math.max(row.inrush_s, 0.001))" :x2="x(row.inrush_a)" :y2="y(Math.max(row.inrush_s, 0.001))" />
          <circle :cx="x(row.inrush_a)" :cy="y(Math.max(row.inrush_s, 0.001))" r="3.5" />
        </template>
      </g>
      <circle v-if="worst" class="worst" :cx="worst.x" :cy="worst.y" r="7" />
      <text class="named" :x="(PAPER.width + PAPER.left) / 2" :y="PAPER.height - 6" text-anchor="middle">current</text>
    </svg>
    <figcaption>
      <ul>
        <li><span class="key band-key" aria-hidden="true"></span>{{ curves.name }}, {{ curves.rating_a }} A: from its fastest to its slowest</li>
        <li v-for="row in curves.wires" :key="row.wire" @mouseenter="chosen = row.wire" @mouseleave="chosen = null">
          <span class="key wire-key" aria-hidden="true"></span>wire {{ row.label }}, {{ row.size }}: how long it bears it
        </li>
        <li v-for="row in loads" :key="row.load" @mouseenter="chosen = row.load" @mouseleave="chosen = null">
          <span class="key load-key" aria-hidden="true"></span>{{ row.name }}: {{ fixed(row.running_a, 1) }} A running<template v-if="row.inrush_s > 0">, {{ fixed(row.inrush_a, 0) }} A for {{ lasting(row.inrush_s) }} starting</template>
        </li>
      </ul>
    </figcaption>
  </figure>
</template>

<style scoped src="@/curves.css"></style>

<style scoped>
figure {
  margin: 0;
  padding: 8px 12px 12px;
}

.verdict {
  margin: 0 0 6px;
}

svg {
  display: block;
  width: 100%;
  max-width: 760px;
}

.band {
  fill: var(--copper);
  opacity: 0.16;
}

.edge {
  fill: none;
  stroke: var(--copper);
  stroke-width: 1.6;
}

.wire polyline {
  fill: none;
  stroke: var(--teal);
  stroke-width: 1.6;
}

.load line,
.load circle {
  fill: var(--ink);
  stroke: var(--ink);
}

.load line {
  stroke-dasharray: 3 3;
}

.chosen polyline,
.chosen line {
  stroke-width: 3.2;
}

ul {
  display: grid;
  gap: 2px 18px;
  margin: 6px 0 0;
  padding: 0;
  grid-template-columns: repeat(auto-fill, minmax(270px, 1fr));
  list-style: none;
}

.band-key {
  color: var(--copper);
}

.wire-key {
  color: var(--teal);
}

.load-key {
  border-top-style: dotted;
  color: var(--ink);
}
</style>
