<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'

import { useLive } from '@/stores/live'

/** The last seconds of what a meter shows. */
const props = defineProps<{ name: string }>()

const SECONDS = 6
const WIDE = 120
const HIGH = 34

const live = useLive()
const points = shallowRef<{ t: number; value: number }[]>([])
watch(
  () => live.frame,
  (frame) => {
    const value = frame?.meters[props.name]?.value
    if (!frame || value === null || value === undefined) return
    const kept = points.value.filter((row) => row.t > frame.t_s - SECONDS && row.t <= frame.t_s)
    points.value = [...kept, { t: frame.t_s, value }]
  },
)
const line = computed(() => {
  const rows = points.value
  const last = rows.at(-1)
  if (!last || rows.length < 2) return ''
  const low = Math.min(0, ...rows.map((row) => row.value))
  const high = Math.max(0.1, ...rows.map((row) => row.value))
  return rows
    .map((row) => `${(WIDE * (1 - (last.t - row.t) / SECONDS)).toFixed(1)},${(HIGH - 2 - ((row.value - low) / (high - low)) * (HIGH - 4)).toFixed(1)}`)
    .join(' ')
})
</script>

<template>
  <svg class="trace" :viewBox="`0 0 ${WIDE} ${HIGH}`" role="img" :aria-label="`The last ${SECONDS} seconds`">
    <polyline :points="line" />
  </svg>
</template>

<style scoped>
.trace {
  flex: 1;
  height: 34px;
  border-bottom: 1px solid var(--rule);
}

polyline {
  fill: none;
  stroke: var(--amber-ink);
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
}
</style>
