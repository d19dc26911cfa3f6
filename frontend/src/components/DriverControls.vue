<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useBenchState, useBuildId, useReadings } from '@/api/queries'
import { useBench } from '@/stores/bench'

/** The controls made from this car's own switches, by where they are. */
const props = defineProps<{ build: BuildView }>()

const id = useBuildId()
const bench = useBench()
const state = useBenchState(id)
const { data: readings } = useReadings(id)

const byPlace = computed(() => {
  const switches = props.build.parts.filter((part) => ['switch', 'button', 'sensor', 'isolator'].includes(part.kind) && part.contacts)
  return props.build.places
    .map((place) => ({ place, switches: switches.filter((part) => part.place === place.id) }))
    .filter((row) => row.switches.length > 0)
})
const moved = computed(
  () =>
    Object.keys(state.value.switches).length > 0 ||
    Object.keys(state.value.values).length > 0 ||
    state.value.lost.length > 0,
)

/** What something in this car goes by. */
const values = computed(() => readings.value?.values ?? [])

/** How the lamps of buttons are painted. */
const LAMPS: Record<string, string> = { white: '#f4f1e6', amber: '#e39a1f', green: '#3c9a4c', blue: '#3f77c4', red: '#c8412f' }

function lampOf(part: Schemas['PartView']): string {
  const lamp = String(part.figures.lamp ?? 'none')
  return lamp === 'none' ? '' : lamp
}

function tell(name: string, event: Event): void {
  const value = Number((event.target as HTMLInputElement).value)
  bench.change(id.value, { values: { ...state.value.values, [name]: value } })
}

function position(part: Schemas['PartView']): string {
  return state.value.switches[part.id] ?? part.contacts!.positions[0]!.name
}

/** What can be taken for dead: data buses, modules and keypads. */
const losable = computed(() => (readings.value?.can_be_lost ?? []).filter((row) => row.kind !== 'control box'))

function lose(what: string, lost: boolean): void {
  const others = state.value.lost.filter((row) => row !== what)
  bench.change(id.value, { lost: lost ? [...others, what] : others })
}

function set(part: Schemas['PartView'], name: string): void {
  bench.setSwitch(id.value, part.id, name)
}

function toggle(part: Schemas['PartView']): void {
  const [rest, held] = part.contacts!.positions
  set(part, position(part) === rest!.name ? held!.name : rest!.name)
}
</script>

<template>
  <section class="controls" aria-label="Controls">
    <div v-if="values.length">
      <h3>Engine and road</h3>
      <label v-for="row in values" :key="row.name" class="control">
        {{ row.said }}
        <span>
          <input
            type="range"
            min="0"
            :max="row.most"
            :step="row.most >= 1000 ? 100 : 1"
            :value="state.values[row.name] ?? row.usual"
            @change="tell(row.name, $event)"
          />
          <output>{{ state.values[row.name] ?? row.usual }} {{ row.unit }}</output>
        </span>
      </label>
    </div>
    <div v-for="row in byPlace" :key="row.place.id">
      <h3>{{ row.place.name }}</h3>
      <div v-for="part in row.switches" :key="part.id" class="control">
        <span :id="`switch-${part.id}`">
          {{ part.name }}
          <i
            v-if="lampOf(part)"
            class="lamp"
            role="img"
            :aria-label="readings?.lamps[part.id] ? `${lampOf(part)} lamp lit` : `${lampOf(part)} lamp dark`"
            :class="{ lit: readings?.lamps[part.id] }"
            :style="{ '--lamp': LAMPS[lampOf(part)] }"
          ></i>
        </span>
        <button
          v-if="part.contacts!.momentary && part.contacts!.positions.length === 2"
          class="hold"
          :aria-pressed="position(part) !== part.contacts!.positions[0]!.name"
          :aria-label="`Hold ${part.name}`"
          @click="toggle(part)"
        >
          {{ position(part) === part.contacts!.positions[0]!.name ? 'hold' : 'let go' }}
        </button>
        <div v-else class="positions" role="radiogroup" :aria-labelledby="`switch-${part.id}`">
          <button
            v-for="at in part.contacts!.positions"
            :key="at.name"
            role="radio"
            :aria-checked="position(part) === at.name"
            @click="set(part, at.name)"
          >
            {{ at.name }}
          </button>
        </div>
      </div>
    </div>
    <div v-if="losable.length">
      <h3>Modules and buses</h3>
      <div v-for="row in losable" :key="row.id" class="control">
        <span :id="`lost-${row.id}`">{{ row.name }}</span>
        <div class="positions" role="radiogroup" :aria-labelledby="`lost-${row.id}`">
          <button role="radio" :aria-checked="!state.lost.includes(row.id)" @click="lose(row.id, false)">works</button>
          <button role="radio" :aria-checked="state.lost.includes(row.id)" @click="lose(row.id, true)">lost</button>
        </div>
      </div>
    </div>
    <p v-if="byPlace.length === 0" class="empty">This car has no switches yet.</p>
    <button v-if="moved" class="rest" @click="bench.change(id, { switches: {}, values: {}, lost: [] })">
      Put everything at rest
    </button>
  </section>
</template>

<style scoped>
.controls {
  padding: 8px 12px;
}

h3 {
  margin-top: 10px;
  color: var(--quiet);
}

.control {
  display: flex;
  gap: 8px;
  align-items: center;
  justify-content: space-between;
  min-height: 36px;
  border-bottom: 1px solid var(--rule);
}

.lamp {
  display: inline-block;
  width: 11px;
  height: 11px;
  margin-left: 4px;
  border: 2px solid var(--lamp);
  border-radius: 50%;
  box-shadow: 0 0 0 1px var(--quiet);
  vertical-align: -1px;
}

.lamp.lit {
  background: var(--lamp);
}

label.control {
  white-space: nowrap;
}

input[type='range'] {
  width: 84px;
  accent-color: var(--copper);
}

output {
  display: inline-block;
  width: 66px;
  text-align: right;
}

.positions {
  display: flex;
  border: 1px solid var(--quiet);
  border-radius: 3px;
}

.positions button {
  min-height: 28px;
  padding: 2px 9px;
  border: 0;
  border-left: 1px solid var(--rule);
  background: transparent;
  color: var(--ink);
  cursor: pointer;
  font-family: var(--heading);
  font-size: 15px;
  font-weight: 500;
}

.positions button:first-child {
  border-left: 0;
}

.positions button[aria-checked='true'] {
  background: var(--ink);
  color: var(--sheet);
}

.hold,
.rest {
  min-height: 28px;
  padding: 2px 14px;
  border: 1px solid var(--copper);
  border-radius: 3px;
  background: transparent;
  color: var(--copper);
  cursor: pointer;
  font-family: var(--heading);
  font-size: 15px;
  font-weight: 600;
}

.hold[aria-pressed='true'] {
  background: var(--copper);
  color: var(--sheet);
}

.rest {
  margin-top: 12px;
}

@media (max-width: 900px) {
  .control {
    min-height: 46px;
  }

  .positions button,
  .hold {
    min-height: 38px;
    font-size: 17px;
  }
}
</style>
