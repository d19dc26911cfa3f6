<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { current, fixed } from '@/format'
import type { ScenarioRow } from '@/scenarios'

/** What the car draws in each scenario, a bar each at its engine speed, under what the alternator can give there. */
const props = defineProps<{ budget: Schemas['Budget']; chosen: string }>()
const emit = defineEmits<{ choose: [scenario: string] }>()

const PAPER = { width: 1000, height: 250, left: 46, right: 14, top: 16, bottom: 44 }
const STANDING = { from: 0.02, to: 0.2 }
const RUNNING = { from: 0.24, to: 0.99, most: 4000 }
const BAR = 26

const shown = computed(() => props.budget.scenarios.map((row, n) => ({ row, number: n + 1 })).filter(({ row }) => row.key !== 'crank'))
const cranks = computed(() => props.budget.scenarios.map((row, n) => ({ row, number: n + 1 })).filter(({ row }) => row.key === 'crank'))
const most = computed(() => {
  const draws = shown.value.map(({ row }) => row.draws_a + row.shed_a)
  const top = Math.max(10, ...draws, ...props.budget.curve.map((point) => point.amps))
  const step = top > 120 ? 50 : top > 50 ? 20 : 10
  return { amps: Math.ceil((top * 1.04) / step) * step, step }
})
const lines = computed(() => Array.from({ length: most.value.amps / most.value.step + 1 }, (_, n) => n * most.value.step))

const wide = PAPER.width - PAPER.left - PAPER.right
const y = (amps: number) => PAPER.height - PAPER.bottom - (amps / most.value.amps) * (PAPER.height - PAPER.top - PAPER.bottom)
const x = (rpm: number) => PAPER.left + wide * (RUNNING.from + (RUNNING.to - RUNNING.from) * Math.min(rpm / RUNNING.most, 1))

const bars = computed(() => {
  const running = shown.value.filter(({ row }) => row.engine_rpm > 0)
  const standing = shown.value.filter(({ row }) => row.engine_rpm === 0)
  const taken = new Map<number, number>()
  const placed = running.map((bar) => {
    const at = taken.get(bar.row.engine_rpm) ?? 0
    taken.set(bar.row.engine_rpm, at + 1)
    return { ...bar, at: x(bar.row.engine_rpm) + at * (BAR + 5) - BAR / 2 }
  })
  const span = (STANDING.to - STANDING.from) / Math.max(standing.length, 1)
  standing.forEach((bar, n) => placed.push({ ...bar, at: PAPER.left + wide * (STANDING.from + span * n) }))
  return placed.map((bar) => ({ ...bar, ...parts(bar.row) }))
})

function parts(row: ScenarioRow): { given: number; helped: number } {
  const given = Math.max(Math.min(row.alternator_a, row.draws_a), 0)
  return { given, helped: Math.max(row.draws_a - given, 0) }
}

const curve = computed(() => props.budget.curve.map((point) => `${x(point.engine_rpm)},${y(point.amps)}`).join(' '))
const said = (row: ScenarioRow) =>
  `${row.name}: draws ${current(row.draws_a)}, alternator ${current(Math.max(row.alternator_a, 0))}, battery ${row.battery_a > 0.05 ? 'gives' : 'takes'} ${current(Math.abs(row.battery_a))}${row.shed_a > 0.01 ? `, shed ${current(row.shed_a)}` : ''}`
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${PAPER.width} ${PAPER.height}`" role="group" aria-label="Draw of each scenario at its engine speed, against what the alternator can give">
      <defs>
        <pattern id="from-battery" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="6" height="6" class="ochre" />
          <line x1="0" y1="0" x2="0" y2="6" class="hatch" />
        </pattern>
      </defs>
      <g class="grid">
        <template v-for="at in lines" :key="at">
          <line :x1="PAPER.left" :x2="PAPER.width - PAPER.right" :y1="y(at)" :y2="y(at)" />
          <text :x="PAPER.left - 6" :y="y(at) + 4" text-anchor="end">{{ at }} A</text>
        </template>
        <template v-for="rpm in [0, 1000, 2000, 3000, 4000]" :key="rpm">
          <text v-if="rpm" :x="x(rpm)" :y="PAPER.height - 6" text-anchor="middle">{{ rpm }} rpm</text>
        </template>
        <text :x="PAPER.left + wide * 0.11" :y="PAPER.height - 6" text-anchor="middle">engine off</text>
      </g>
      <g
        v-for="bar in bars"
        :key="bar.row.id"
        class="bar"
        :class="{ chosen: bar.row.id === chosen }"
        role="button"
        tabindex="0"
        :aria-label="said(bar.row)"
        @click="emit('choose', bar.row.id)"
        @keydown.enter.prevent="emit('choose', bar.row.id)"
        @keydown.space.prevent="emit('choose', bar.row.id)"
      >
        <title>{{ said(bar.row) }}</title>
        <rect class="hit" :x="bar.at - 2" :y="PAPER.top" :width="BAR + 4" :height="PAPER.height - PAPER.top - 22" />
        <rect class="given" :x="bar.at" :width="BAR" :y="y(bar.given)" :height="y(0) - y(bar.given)" />
        <rect class="helped" :x="bar.at" :width="BAR" :y="y(bar.given + bar.helped)" :height="y(bar.given) - y(bar.given + bar.helped)" />
        <rect
          v-if="bar.row.shed_a > 0.01"
          class="shed"
          :x="bar.at"
          :width="BAR"
          :y="y(bar.row.draws_a + bar.row.shed_a)"
          :height="y(bar.row.draws_a) - y(bar.row.draws_a + bar.row.shed_a)"
        />
        <text class="number" :x="bar.at + BAR / 2" :y="PAPER.height - 26" text-anchor="middle">{{ bar.number }}</text>
      </g>
      <polyline v-if="budget.curve.some((point) => point.amps > 0)" class="curve" :points="curve" />
    </svg>
    <figcaption>
      <span><i class="key line" aria-hidden="true"></i>the alternator’s most, warm</span>
      <span><i class="key given" aria-hidden="true"></i>from the alternator</span>
      <span><i class="key helped" aria-hidden="true"></i>from the battery</span>
      <span v-if="bars.some((bar) => bar.row.shed_a > 0.01)"><i class="key shed" aria-hidden="true"></i>shed</span>
      <span v-for="{ row, number } in cranks" :key="row.id" class="quiet">{{ number }}: {{ fixed(row.draws_a, 0) }} A, off this scale</span>
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
  max-height: 300px;
}

.grid line {
  stroke: var(--rule);
}

text {
  fill: var(--quiet);
  font-family: var(--text);
  font-size: 12.5px;
}

.number {
  fill: var(--ink);
  font-family: var(--heading);
  font-size: 15px;
  font-weight: 600;
}

.hit {
  fill: transparent;
}

.bar {
  cursor: pointer;
}

.bar.chosen .hit {
  fill: var(--copper-wash);
}

rect.given {
  fill: var(--teal);
}

.ochre {
  fill: var(--amber);
}

.hatch {
  stroke: var(--sheet);
  stroke-width: 2;
}

rect.helped {
  fill: url('#from-battery');
  stroke: var(--amber);
}

rect.shed {
  fill: none;
  stroke: var(--quiet);
  stroke-dasharray: 4 3;
}

.curve {
  fill: none;
  stroke: var(--ink);
  stroke-width: 2;
  pointer-events: none;
}

@media (max-width: 900px) {
  text {
    font-size: 16px;
  }
}

figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  font-size: 13px;
}

.key {
  display: inline-block;
  width: 16px;
  height: 10px;
  margin-right: 6px;
}

.key.line {
  height: 0;
  border-top: 2px solid var(--ink);
  vertical-align: 4px;
}

.key.given {
  background: var(--teal);
}

.key.helped {
  border: 1px solid var(--amber);
  background: repeating-linear-gradient(45deg, var(--amber) 0 3px, var(--sheet) 3px 5px);
}

.key.shed {
  border: 1px dashed var(--quiet);
}
</style>
