<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'

/** The car from above, nose up, drawn from its few figures: 100 units are a metre, 0 is mid-car. */
const props = defineProps<{ body: Schemas['BodyView'] }>()

/** Shares of the half width at nose and tail, and the radii of their corners. */
const SHAPES: Record<string, { nose: number; tail: number; noseRadius: number; tailRadius: number }> = {
  'open two-seater': { nose: 0.8, tail: 0.86, noseRadius: 24, tailRadius: 30 },
  coupé: { nose: 0.84, tail: 0.88, noseRadius: 26, tailRadius: 24 },
  saloon: { nose: 0.88, tail: 0.9, noseRadius: 22, tailRadius: 18 },
  estate: { nose: 0.88, tail: 0.94, noseRadius: 22, tailRadius: 10 },
  van: { nose: 0.92, tail: 0.98, noseRadius: 18, tailRadius: 6 },
  pickup: { nose: 0.9, tail: 0.97, noseRadius: 16, tailRadius: 6 },
  buggy: { nose: 0.5, tail: 0.8, noseRadius: 18, tailRadius: 16 },
}
const OPEN = ['open two-seater', 'buggy']
const SCREEN_BEHIND_AXLE: Record<string, number> = { van: 20, buggy: 60 }
const WHEEL = { long: 58, wide: 19 }

const length = computed(() => props.body.length_m * 100)
const half = computed(() => props.body.width_m * 50)
const front = computed(() => props.body.front_axle_m * 100)
const rear = computed(() => props.body.rear_axle_m * 100)
const shape = computed(() => SHAPES[props.body.style] ?? SHAPES.saloon!)
const screen = computed(() =>
  props.body.engine === 'front'
    ? front.value + (SCREEN_BEHIND_AXLE[props.body.style] ?? 48)
    : front.value + 8,
)

const outline = computed(() => {
  const { noseRadius: nr, tailRadius: tr } = shape.value
  const nose = half.value * shape.value.nose
  const tail = half.value * shape.value.tail
  const side = (sign: number) => {
    const w = half.value * sign
    const n = nose * sign
    const t = tail * sign
    return { w, n, t }
  }
  const r = side(1)
  const l = side(-1)
  const shoulder = front.value * 0.55
  const hip = rear.value + (length.value - rear.value) * 0.5
  return [
    `M ${l.n + nr} 0 H ${r.n - nr} Q ${r.n} 0 ${r.n} ${nr}`,
    `C ${r.n} ${shoulder} ${r.w} ${shoulder} ${r.w} ${front.value} V ${rear.value}`,
    `C ${r.w} ${hip} ${r.t} ${hip} ${r.t} ${length.value - tr}`,
    `Q ${r.t} ${length.value} ${r.t - tr} ${length.value} H ${l.t + tr}`,
    `Q ${l.t} ${length.value} ${l.t} ${length.value - tr}`,
    `C ${l.t} ${hip} ${l.w} ${hip} ${l.w} ${rear.value} V ${front.value}`,
    `C ${l.w} ${shoulder} ${l.n} ${shoulder} ${l.n} ${nr} Q ${l.n} 0 ${l.n + nr} 0 Z`,
  ].join(' ')
})
const roof = computed(() => {
  if (OPEN.includes(props.body.style)) return null
  const top = screen.value + 34
  const bottom = { van: length.value - 10, estate: length.value - 22, pickup: top + 95 }[props.body.style]
  return { top, height: (bottom ?? rear.value + 8) - top }
})
const engine = computed(() => {
  const at = { front: front.value, middle: rear.value - 38, rear: rear.value + 22 }[props.body.engine]
  return Math.max(at - 26, 6)
})
</script>

<template>
  <g class="outline" aria-hidden="true">
    <template v-for="at in [front, rear]" :key="at">
      <rect
        v-for="side in [-half - 4, half + 4 - WHEEL.wide]"
        :key="side"
        class="wheel"
        :x="side"
        :y="at - WHEEL.long / 2"
        :width="WHEEL.wide"
        :height="WHEEL.long"
        rx="4"
      />
    </template>
    <path class="skin" :d="outline" />
    <path class="line" :d="`M ${-half * 0.86} ${screen + 16} Q 0 ${screen - 14} ${half * 0.86} ${screen + 16}`" />
    <rect v-if="roof" class="line" :x="-half * 0.74" :y="roof.top" :width="half * 1.48" :height="roof.height" rx="14" />
    <template v-if="body.doors > 0">
      <path v-for="sign in [-1, 1]" :key="sign" class="door" :d="`M ${sign * half} ${screen + 24} h ${-sign * 9} v 92 h ${sign * 9}`" />
      <template v-if="body.doors > 3">
        <path v-for="sign in [-1, 1]" :key="`rear${sign}`" class="door" :d="`M ${sign * half} ${screen + 118} h ${-sign * 9} v 76 h ${sign * 9}`" />
      </template>
    </template>
    <rect class="engine" x="-27" :y="engine" width="54" height="52" rx="5" />
    <text class="engine-name" x="0" :y="engine + 30">engine</text>
  </g>
</template>

<style scoped>
.skin {
  fill: var(--sheet);
  stroke: var(--quiet);
  stroke-width: 1.6;
}

.wheel {
  fill: var(--card);
  stroke: var(--quiet);
}

.line,
.door {
  fill: none;
  stroke: var(--rule);
  stroke-width: 1.4;
}

.engine {
  fill: none;
  stroke: var(--rule);
  stroke-dasharray: 5 4;
}

.engine-name {
  fill: var(--quiet);
  font-size: 10px;
  opacity: 0.75;
  text-anchor: middle;
}
</style>
