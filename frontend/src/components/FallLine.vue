<script setup lang="ts">
import { computed } from 'vue'

import type { FallLineView, Finding } from '@/api/client'
import { fallScale, PAPER, placedNames, sampled } from '@/fallScale'
import { amps, fixed, volts } from '@/format'

/** Voltage from battery down to zero along the way; `chosen` is the step under the pointer. */
const props = defineProps<{
  design: FallLineView
  live?: FallLineView
  /** The lines of the other loads: they share the trunk and branch off. */
  branches?: FallLineView[]
  loadName: string
  /** What was found of this circuit: the steps that it names are marked. */
  findings: Finding[]
}>()
const LOSSES = ['drop-too-high', 'trunk-loses']
const chosen = defineModel<number | null>('chosen', { required: true })

const main = computed(() => props.live ?? props.design)
const lines = computed(() => [
  props.design,
  ...(props.live ? [props.live] : []),
  ...(props.branches ?? []),
])
const scale = computed(() => fallScale(lines.value))

interface Drawn {
  side: string
  points: string
}

function drawn(line: FallLineView): Drawn[] {
  return line.steps
    .filter((step) => step.side !== 'load')
    .map((step) => ({
      side: step.side,
      points: step.points
        .map((point) => `${scale.value.x(point.distance_m)},${scale.value.y(point.volts, step.side)}`)
        .join(' '),
    }))
}

const cliff = computed(() => {
  const step = main.value.steps.find((one) => one.side === 'load')
  if (!step) return null
  return {
    x: scale.value.x(step.points[0]!.distance_m),
    top: scale.value.y(step.points[0]!.volts, 'feed'),
    bottom: scale.value.y(step.points[1]!.volts, 'return'),
  }
})

const troubled = computed(() => new Set(props.findings.flatMap((row) => row.parts)))

/** The step in which most is lost, and what puts it right where that was found. */
const culprit = computed(() => main.value.steps[main.value.worst]!)
const cure = computed(() => {
  const about = props.findings.filter((row) => row.mends.length)
  const row = about.find((one) => one.parts.includes(culprit.value.owner)) ?? about.find((one) => LOSSES.includes(one.code))
  return row?.mends[0]?.label
})

/** Names beside the line: fuses, contacts, grounds, and wires that were found at fault; what loses most. */
const names = computed(() => {
  const on = (point: { distance_m: number; volts: number }, side: string) => ({ x: scale.value.x(point.distance_m), y: scale.value.y(point.volts, side) })
  const steps = main.value.steps.map((step) => ({ ...step, side: step.side === 'load' ? 'feed' : step.side }))
  const drawnSteps = lines.value.flatMap((line) => line.steps.filter((step) => step.side !== 'load'))
  const line = drawnSteps.flatMap((step) => sampled(step.points.map((point) => on(point, step.side))))
  const wanted = steps.flatMap((step, at) => {
    const worst = at === main.value.worst
    const marked = worst || troubled.value.has(step.owner)
    if (step.kind === 'wire' && !marked) return []
    const text = step.kind === 'wire' ? `${step.name}, ${step.detail}` : step.name
    const lost = worst ? `: ${fixed(step.loss_v, 2)} V` : ''
    const [first, last] = [step.points[0]!, step.points.at(-1)!]
    const middle = { distance_m: (first.distance_m + last.distance_m) / 2, volts: (first.volts + last.volts) / 2 }
    return [{ text: `${text}${lost}`, ...on(step.kind === 'wire' ? middle : first, step.side), must: marked, worst }]
  })
  return placedNames(wanted, line)
})

const hovered = computed(() => (chosen.value === null ? null : main.value.steps[chosen.value]))
const summary = computed(
  () =>
    `Fall line of ${props.loadName}: ${volts(main.value.battery_v)} at the battery, ` +
    `${fixed(main.value.feed_loss_v, 2)} V lost on the feed, ${fixed(main.value.return_loss_v, 2)} V on the return, ` +
    `${volts(main.value.load_v)} at the load.`,
)
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${PAPER.width} ${PAPER.height}`" role="img" :aria-label="summary">
      <g class="ticks">
        <template v-for="tick in scale.ticks" :key="tick.volts">
          <line :x1="PAPER.left" :x2="PAPER.width - PAPER.right" :y1="tick.y" :y2="tick.y" />
          <text :x="PAPER.left - 6" :y="tick.y + 4">{{ fixed(tick.volts, 1) }} V</text>
        </template>
      </g>
      <rect
        class="band"
        :x="PAPER.left"
        :width="PAPER.width - PAPER.left - PAPER.right"
        :y="scale.bandTop"
        :height="PAPER.band"
      />
      <text class="takes" :x="PAPER.left + 12" :y="scale.bandTop + PAPER.band / 2 + 4.5">
        {{ loadName }} takes {{ volts(main.load_v) }}
      </text>
      <g v-for="branch in branches" :key="branch.load" class="branch">
        <polyline v-for="(step, index) in drawn(branch)" :key="index" :points="step.points" />
      </g>
      <g v-if="live" class="design">
        <polyline v-for="(step, index) in drawn(design)" :key="index" :points="step.points" />
      </g>
      <line v-if="cliff" class="cliff" :x1="cliff.x" :x2="cliff.x" :y1="cliff.top" :y2="cliff.bottom" />
      <g v-for="(step, index) in drawn(main)" :key="index">
        <polyline class="step" :class="[step.side, { live: !!live }]" :points="step.points" />
      </g>
      <template v-for="(step, index) in main.steps" :key="index">
        <polyline
          v-if="step.side !== 'load'"
          class="grip"
          :class="{ chosen: chosen === index, troubled: troubled.has(step.owner) }"
          :points="
            step.points
              .map((point) => `${scale.x(point.distance_m)},${scale.y(point.volts, step.side)}`)
              .join(' ')
          "
          @pointerenter="chosen = index"
        />
      </template>
      <line v-for="name in names.filter((row) => row.far)" :key="`to ${name.text}`" class="leader" :x1="name.x" :y1="name.y" :x2="name.at.x" :y2="name.at.y - 4" />
      <text
        v-for="name in names"
        :key="name.text + name.y"
        class="name"
        :class="{ worst: name.worst }"
        :x="name.at.x"
        :y="name.at.y"
        :text-anchor="name.at.anchor"
      >
        {{ name.text }}
      </text>
      <text class="axis" :x="PAPER.left" :y="PAPER.height - 6">0 m, battery +</text>
      <text class="axis" :x="PAPER.width - PAPER.right" :y="PAPER.height - 6" text-anchor="end">
        {{ fixed(scale.metres, 1) }} m, battery −
      </text>
    </svg>
    <figcaption role="status">
      <template v-if="hovered && hovered.side !== 'load'">
        <b>{{ hovered.name }}</b> {{ hovered.detail }} · loses
        <b>{{ fixed(hovered.loss_v * 1000, 0) }} mV</b> at {{ amps(hovered.amps) }}
        <template v-if="hovered.length_m"> over {{ fixed(hovered.length_m, 2) }} m</template>
      </template>
      <template v-else>
        Lost on the feed {{ fixed(main.feed_loss_v, 2) }} V, on the return
        {{ fixed(main.return_loss_v, 2) }} V · {{ main.when }} · most of it in <b>{{ culprit.name }}</b>, {{ fixed(culprit.loss_v, 2) }} V<template v-if="cure">; what helps: <b>{{ cure }}</b></template>
        <template v-if="live"> · thick: live on the bench; dotted: the design’s worst case</template>
      </template>
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}

svg {
  display: block;
  width: 100%;
}

text {
  fill: var(--ink);
  font-size: 12px;
}

.ticks line {
  stroke: var(--rule);
  stroke-width: 1;
}

.ticks text {
  fill: var(--quiet);
  text-anchor: end;
}

.band {
  fill: var(--paper);
}

.takes,
.axis {
  fill: var(--quiet);
}

.leader {
  stroke: var(--quiet);
  stroke-width: 0.8;
}

.name.worst {
  fill: var(--brick);
  font-weight: 600;
}

.name {
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 3px;
}

polyline {
  fill: none;
}

.step {
  stroke: var(--copper);
  stroke-linejoin: round;
  stroke-width: 2;
}

.step.return {
  stroke: var(--teal);
}

.step.live {
  stroke-width: 3.5;
}

.branch polyline {
  stroke: color-mix(in srgb, var(--quiet) 45%, transparent);
  stroke-width: 1.2;
}

.design polyline {
  stroke: var(--quiet);
  stroke-dasharray: 2 3;
  stroke-width: 1.3;
}

.cliff {
  stroke: var(--ink);
  stroke-dasharray: 4 4;
  stroke-width: 2;
}

.grip {
  stroke: transparent;
  stroke-linecap: round;
  stroke-width: 14;
}

.grip.troubled {
  stroke: color-mix(in srgb, var(--brick) 20%, transparent);
}

.grip.chosen {
  stroke: color-mix(in srgb, var(--amber) 45%, transparent);
}

figcaption {
  min-height: 22px;
  padding: 2px 12px 6px;
  color: var(--quiet);
}

figcaption b {
  color: var(--ink);
}
</style>
