<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { useBuildId, useWireHeat } from '@/api/queries'
import { amps, fixed, lasting } from '@/format'

/** How warm a wire gets: along its way at what it carries, and in time under an overload. */
const props = defineProps<{ wires: { id: string; label: string }[]; first?: string }>()

const PAPER = { width: 640, height: 210, left: 46, right: 12, top: 12, bottom: 34 }
const SECONDS = { least: 0.01, most: 7200 }
const STEPS = 200

const id = useBuildId()
const wire = ref(props.first ?? props.wires[0]?.id)
const asked = ref<number>()
const settled = ref<number>()
const { data: heat, error } = useWireHeat(id, wire, settled)

watch(
  () => [props.first, ...props.wires.map((row) => row.id)].join(),
  () => (wire.value = props.first ?? props.wires[0]?.id),
)
watch(wire, () => (asked.value = settled.value = undefined))

let waiting: ReturnType<typeof setTimeout> | undefined
watch(asked, (to) => {
  clearTimeout(waiting)
  waiting = setTimeout(() => (settled.value = to), 120)
})

/** The slider goes by ratio: as far from 1 to 2 A as from 10 to 20. */
const least = computed(() => Math.max(0.5, 0.02 * (heat.value?.most_a ?? 1)))
const overload = computed(() => asked.value ?? heat.value?.overload.amps ?? 1)
const notch = computed({
  get: () => {
    const most = heat.value?.most_a ?? 1
    return Math.round((STEPS * Math.log(overload.value / least.value)) / Math.log(most / least.value))
  },
  set: (at) => {
    const most = heat.value?.most_a ?? 1
    const to = least.value * (most / least.value) ** (at / STEPS)
    asked.value = Math.min(Number(to.toPrecision(3)), most)
  },
})

const ceiling = computed(() => Math.max(heat.value?.damage_c ?? 160, 160) * 1.05)
const y = (celsius: number) =>
  PAPER.height - PAPER.bottom - (Math.min(celsius, ceiling.value) / ceiling.value) * (PAPER.height - PAPER.top - PAPER.bottom)
const width = PAPER.width - PAPER.left - PAPER.right
const whole = computed(() => Math.max(heat.value?.spots.at(-1)?.at_m ?? 1, 0.01))
const along = (metres: number) => PAPER.left + (metres / whole.value) * width
const inTime = (seconds: number) => {
  const share = Math.log(seconds / SECONDS.least) / Math.log(SECONDS.most / SECONDS.least)
  return PAPER.left + Math.min(Math.max(share, 0), 1) * width
}

const DEGREES = [0, 50, 100, 150, 200, 250, 300]
const degrees = computed(() => DEGREES.filter((at) => at <= ceiling.value))
const TIMES: [number, string][] = [
  [0.01, '10 ms'],
  [0.1, '0.1 s'],
  [1, '1 s'],
  [10, '10 s'],
  [60, '1 min'],
  [600, '10 min'],
  [3600, '1 h'],
]
const metres = computed(() => {
  const step = whole.value > 4 ? 1 : whole.value > 1.5 ? 0.5 : 0.1
  return Array.from({ length: Math.floor(whole.value / step) + 1 }, (_, n) => n * step)
})

const line = (points: [number, number][]) => points.map(([at, high]) => `${at},${high}`).join(' ')
const air = computed(() => line(heat.value?.spots.map((row) => [along(row.at_m), y(row.ambient_c)]) ?? []))
const copper = computed(() => line(heat.value?.spots.map((row) => [along(row.at_m), y(row.conductor_c)]) ?? []))
const hottest = computed(() => heat.value?.spots.reduce((most, row) => (row.conductor_c > most.conductor_c ? row : most)))
const rising = computed(() => {
  const row = heat.value?.overload
  return row ? line(row.seconds.map((at, n) => [inTime(at), y(row.celsius[n]!)])) : ''
})
const parts = computed(() => {
  const [first = null, last = null] = heat.value?.overload.parts_s ?? []
  return first === null ? null : { from: inTime(first), to: inTime(last ?? SECONDS.most) }
})

const alongSaid = computed(() => {
  const row = hottest.value
  if (!row || !heat.value) return ''
  const share = row.grouping < 0.995 ? `, with others beside it (grouping ${fixed(row.grouping, 2)})` : ''
  return `At ${amps(heat.value.lasting_a)} for ever the copper is at most ${fixed(row.conductor_c, 0)} °C, at ${row.where}, in ${fixed(row.ambient_c, 0)} °C of air${share}; its insulation bears ${fixed(heat.value.limit_c, 0)} °C.`
})
const overloadSaid = computed(() => {
  const row = heat.value?.overload
  if (!row || !heat.value) return ''
  const limit = row.limit_s === null ? 'never reaches its limit' : row.limit_s === 0 ? 'is at its limit already' : `is at its limit after ${lasting(row.limit_s)}`
  const damage = row.damage_s === null ? 'is not damaged' : `is damaged after ${lasting(row.damage_s)}`
  const [first = null, last = null] = row.parts_s
  const guard = heat.value.behind ?? 'Nothing'
  const opens =
    first === null
      ? `${guard} never parts`
      : last === null
        ? `${guard} may part after ${lasting(first)}, and may never`
        : `${guard} parts after ${lasting(first)} to ${lasting(last)}`
  return `At ${amps(row.amps)} the wire ${limit} and ${damage}. ${opens}${row.safe ? ': in time.' : ': too late.'}`
})
</script>

<template>
  <section aria-label="How warm a wire gets">
    <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
    <header>
      <h3>How warm a wire gets</h3>
      <label>
        Wire
        <select v-model="wire" aria-label="Wire whose temperature is drawn">
          <option v-for="row in wires" :key="row.id" :value="row.id">{{ row.label }}</option>
        </select>
      </label>
      <span v-if="heat" class="quiet">{{ heat.size }}<template v-if="heat.behind">, behind {{ heat.behind }}</template></span>
    </header>
    <template v-if="heat">
      <div class="sheets">
        <figure>
          <svg :viewBox="`0 0 ${PAPER.width} ${PAPER.height}`" role="img" :aria-label="`Temperature along wire ${heat.label}. ${alongSaid}`">
            <g class="grid">
              <template v-for="at in degrees" :key="at">
                <line :x1="PAPER.left" :x2="PAPER.width - PAPER.right" :y1="y(at)" :y2="y(at)" />
                <text :x="PAPER.left - 6" :y="y(at) + 4" text-anchor="end">{{ at }} °C</text>
              </template>
              <text v-for="at in metres" :key="at" :x="along(at)" :y="PAPER.height - PAPER.bottom + 15" :text-anchor="at > 0.96 * whole ? 'end' : 'middle'">{{ fixed(at, whole > 4 ? 0 : 1) }} m</text>
            </g>
            <line class="limit" :x1="PAPER.left" :x2="PAPER.width - PAPER.right" :y1="y(heat.limit_c)" :y2="y(heat.limit_c)" />
            <polyline class="air" :points="air" />
            <polyline class="copper" :points="copper" />
            <text class="named" :x="PAPER.width - PAPER.right" :y="y(heat.limit_c) - 4" text-anchor="end">limit for ever {{ fixed(heat.limit_c, 0) }} °C</text>
            <circle v-if="hottest" class="worst" :cx="along(hottest.at_m)" :cy="y(hottest.conductor_c)" r="5" />
          </svg>
          <figcaption>
            <span class="key copper-key" aria-hidden="true"></span>copper <span class="key air-key" aria-hidden="true"></span>air. {{ alongSaid }}
          </figcaption>
        </figure>
        <figure>
          <svg :viewBox="`0 0 ${PAPER.width} ${PAPER.height}`" role="img" :aria-label="`Temperature of wire ${heat.label} in time. ${overloadSaid}`">
            <rect v-if="parts" class="parts" :x="parts.from" :y="PAPER.top" :width="Math.max(parts.to - parts.from, 2)" :height="PAPER.height - PAPER.top - PAPER.bottom" />
            <g class="grid">
              <template v-for="at in degrees" :key="at">
                <line :x1="PAPER.left" :x2="PAPER.width - PAPER.right" :y1="y(at)" :y2="y(at)" />
                <text :x="PAPER.left - 6" :y="y(at) + 4" text-anchor="end">{{ at }} °C</text>
              </template>
              <text v-for="[at, said] in TIMES" :key="at" :x="inTime(at)" :y="PAPER.height - PAPER.bottom + 15" :text-anchor="at === 0.01 ? 'start' : 'middle'">{{ said }}</text>
            </g>
            <line class="limit" :x1="PAPER.left" :x2="PAPER.width - PAPER.right" :y1="y(heat.limit_c)" :y2="y(heat.limit_c)" />
            <line class="damage" :x1="PAPER.left" :x2="PAPER.width - PAPER.right" :y1="y(heat.damage_c)" :y2="y(heat.damage_c)" />
            <polyline class="copper" :points="rising" />
            <text class="named" :x="PAPER.left + 6" :y="y(heat.damage_c) + 14">damage {{ fixed(heat.damage_c, 0) }} °C</text>
          </svg>
          <figcaption>
            <span class="key parts-key" aria-hidden="true"></span>when its protection parts.
            <span :class="{ bad: !heat.overload.safe }" role="status">{{ overloadSaid }}</span>
          </figcaption>
          <label class="slider">
            Overload
            <input v-model.number="notch" type="range" min="0" :max="STEPS" :aria-valuetext="amps(overload)" aria-label="Overload" />
            <span class="amount">{{ amps(overload) }}</span>
          </label>
        </figure>
      </div>
    </template>
    <p v-else-if="!error" class="empty">Drawing how warm it gets…</p>
  </section>
</template>

<style scoped src="@/curves.css"></style>

<style scoped>
section {
  padding: 8px 12px 12px;
  border-top: 1px solid var(--rule);
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
}

h3 {
  margin: 0;
}

.sheets {
  display: grid;
  gap: 10px 18px;
  grid-template-columns: repeat(auto-fit, minmax(min(420px, 100%), 1fr));
}

figure {
  margin: 6px 0 0;
}

svg {
  display: block;
  width: 100%;
}

figcaption {
  margin-top: 4px;
}

line.limit {
  stroke: var(--brick);
  stroke-dasharray: 6 4;
}

.damage {
  stroke: var(--brick);
  stroke-width: 2;
}

.air {
  fill: none;
  stroke: var(--teal);
  stroke-dasharray: 2 3;
  stroke-width: 1.6;
}

.copper {
  fill: none;
  stroke: var(--copper);
  stroke-width: 2.4;
}

.parts {
  fill: var(--moss);
  opacity: 0.2;
}

.copper-key {
  color: var(--copper);
}

.air-key {
  margin-left: 8px;
  border-top-style: dotted;
  color: var(--teal);
}

.parts-key {
  height: 10px;
  border: 0;
  background: color-mix(in srgb, var(--moss) 30%, transparent);
}

.slider {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 44px;
}

.slider input {
  flex: 1;
  min-height: 44px;
  accent-color: var(--copper);
}

.amount {
  min-width: 64px;
  text-align: right;
}
</style>
