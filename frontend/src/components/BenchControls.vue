<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { fixed } from '@/format'
import { useLive } from '@/stores/live'

import SteadyField from './SteadyField.vue'

/** The controls made from this car's own switches, by where a driver finds them; what the car moves by
 * itself below. */
const props = defineProps<{ build: BuildView }>()

type Part = Schemas['PartView']
const live = useLive()
const now = computed(() => live.calm)

const isWorked = (part: Part) => ['switch', 'button', 'isolator'].includes(part.kind) && part.contacts
const byPlace = computed(() =>
  props.build.places
    .map((place) => ({ place, switches: props.build.parts.filter((part) => part.place === place.id && isWorked(part)) }))
    .filter((row) => row.switches.length > 0),
)
const sensors = computed(() => props.build.parts.filter((part) => part.kind === 'sensor' && part.contacts))
const senders = computed(() => props.build.parts.filter((part) => part.kind === 'sensor' && !part.contacts))
const values = computed(() => live.session?.values ?? [])
/** What can be taken for dead: data buses, modules and keypads. */
const losable = computed(() => (live.session?.can_be_lost ?? []).filter((row) => row.kind !== 'control box'))

/** How the lamps of buttons are painted. */
const LAMPS: Record<string, string> = { white: '#f4f1e6', amber: '#e39a1f', green: '#3c9a4c', blue: '#3f77c4', red: '#c8412f' }

function lampOf(part: Part): string {
  const lamp = String(part.figures.lamp ?? 'none')
  return lamp === 'none' ? '' : lamp
}

const position = (part: Part) => now.value?.positions[part.id] ?? part.contacts!.positions[0]!.name
const rest = (part: Part) => part.contacts!.positions[0]!.name
const isHeld = (part: Part) => part.contacts!.momentary && part.contacts!.positions.length === 2
const quiet = (part: Part) => now.value?.quiet.includes(part.id) ?? false
const byHand = (id: string) => live.session?.by_hand.includes(id) ?? false

function set(part: Part, to: string | null): void {
  void live.do({ do: 'switch', of: part.id, to })
}

/** A button stays down for as long as it is held, with the pointer or a key. */
const held = new Set<string>()
function hold(part: Part): void {
  held.add(part.id)
  set(part, part.contacts!.positions[1]!.name)
}
function letGo(part: Part): void {
  if (held.delete(part.id)) set(part, rest(part))
}

/** What a value is, by its name. */
function valueOf(name: string): number {
  if (name === 'engine_rpm') return now.value?.engine_rpm ?? 0
  if (name === 'coolant_c') return now.value?.coolant_c ?? 20
  return told.get(name) ?? values.value.find((row) => row.name === name)?.usual ?? 0
}
/** What was set here of values that frames do not carry. */
const told = new Map<string, number>()

function tell(name: string, to: number): void {
  told.set(name, to)
  void live.do({ do: 'value', of: name, to })
}

function send(part: Part, to: number): void {
  if (to > 0) void live.do({ do: 'sender', of: part.id, to })
}

/** Everything back to where it rests, at once. */
function allAtRest(): void {
  void live.do(
    ...(live.session?.by_hand ?? []).map((of) => ({ do: 'switch', of, to: null })),
    ...(live.session?.values_by_hand ?? []).map((of) => ({ do: 'value', of, to: null })),
    ...Object.keys(live.session?.senders ?? {}).map((of) => ({ do: 'sender', of, to: null })),
    ...(live.session?.lost ?? []).map((of) => ({ do: 'find', of })),
  )
}
const moved = computed(
  () =>
    !!live.session &&
    live.session.by_hand.length + live.session.values_by_hand.length + live.session.lost.length + Object.keys(live.session.senders).length > 0,
)
</script>

<template>
  <section class="controls" aria-label="Controls">
    <div v-for="row in byPlace" :key="row.place.id">
      <h3>{{ row.place.name }}</h3>
      <div v-for="part in row.switches" :key="part.id" class="control" :class="{ dead: quiet(part) }" :title="quiet(part) ? 'No volts reach it now: working it has no effect' : undefined">
        <span :id="`switch-${part.id}`">
          {{ part.name }}
          <i
            v-if="lampOf(part)"
            class="lamp"
            role="img"
            :aria-label="now?.lamps[part.id] ? `${lampOf(part)} lamp lit` : `${lampOf(part)} lamp dark`"
            :class="{ lit: now?.lamps[part.id] }"
            :style="{ '--lamp': LAMPS[lampOf(part)] }"
          ></i>
        </span>
        <button
          v-if="isHeld(part)"
          class="hold"
          :aria-pressed="position(part) !== rest(part)"
          :aria-label="`Hold ${part.name}`"
          @pointerdown="hold(part)"
          @pointerup="letGo(part)"
          @pointerleave="letGo(part)"
          @keydown.space.enter.prevent="!$event.repeat && hold(part)"
          @keyup.space.enter.prevent="letGo(part)"
        >
          hold
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
    <div v-if="values.length || sensors.length || senders.length">
      <h3>Engine and sensors</h3>
      <label v-for="row in values" :key="row.name" class="control">
        {{ row.said }}
        <span>
          <SteadyField
            type="range"
            min="0"
            :max="row.most"
            :step="row.most >= 1000 ? 100 : 1"
            :value="valueOf(row.name)"
            :aria-label="row.said"
            @put="(text) => tell(row.name, Number(text))"
          />
          <output>{{ fixed(valueOf(row.name), 0) }} {{ row.unit }}</output>
          <button v-if="live.session?.values_by_hand.includes(row.name)" class="auto" :aria-label="`${row.said} as the car has it`" title="Let the car set it again" @click.prevent="live.do({ do: 'value', of: row.name, to: null })">auto</button>
        </span>
      </label>
      <div v-for="part in sensors" :key="part.id" class="control" :class="{ dead: quiet(part) }">
        <span :id="`switch-${part.id}`">{{ part.name }}</span>
        <span class="sensor">
          <span class="positions" role="radiogroup" :aria-labelledby="`switch-${part.id}`">
            <button v-for="at in part.contacts!.positions" :key="at.name" role="radio" :aria-checked="position(part) === at.name" @click="set(part, at.name)">
              {{ at.name }}
            </button>
          </span>
          <button v-if="byHand(part.id)" class="auto" :aria-label="`${part.name} as the car has it`" title="Let the car move it again" @click="set(part, null)">auto</button>
        </span>
      </div>
      <div v-for="part in senders" :key="part.id" class="control">
        {{ part.name }}
        <span class="sensor">
          <SteadyField
            class="ohms"
            type="number"
            min="0.1"
            max="100000"
            step="any"
            :value="now?.senders[part.id] ?? part.figures.resistance_ohm ?? 100"
            :aria-label="`${part.name}, Ω`"
            @put="(text) => send(part, Number(text))"
          />
          Ω
          <button v-if="part.id in (live.session?.senders ?? {})" class="auto" :aria-label="`${part.name} as the car has it`" title="Let the car move it again" @click="live.do({ do: 'sender', of: part.id, to: null })">auto</button>
        </span>
      </div>
    </div>
    <div v-if="losable.length">
      <h3>Modules and buses</h3>
      <div v-for="row in losable" :key="row.id" class="control">
        <span :id="`lost-${row.id}`">{{ row.name }}</span>
        <div class="positions" role="radiogroup" :aria-labelledby="`lost-${row.id}`">
          <button role="radio" :aria-checked="!live.session?.lost.includes(row.id)" @click="live.do({ do: 'find', of: row.id })">works</button>
          <button role="radio" :aria-checked="live.session?.lost.includes(row.id)" @click="live.do({ do: 'lose', of: row.id })">lost</button>
        </div>
      </div>
    </div>
    <p v-if="byPlace.length === 0" class="empty">This car has no switches yet.</p>
    <button v-if="moved" class="rest" @click="allAtRest">Put everything at rest</button>
  </section>
</template>

<style scoped>
.controls {
  padding: 4px 12px 12px;
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

.control.dead {
  color: var(--quiet);
}

.control.dead .positions,
.control.dead .hold {
  border-style: dashed;
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

input[type='range'] {
  width: 76px;
  accent-color: var(--copper);
  vertical-align: middle;
}

.ohms {
  width: 78px;
  padding: 2px 6px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  text-align: right;
}

output {
  display: inline-block;
  width: 62px;
  text-align: right;
}

.sensor {
  display: flex;
  gap: 4px;
  align-items: center;
}

.positions {
  display: flex;
  border: 1px solid var(--quiet);
  border-radius: 3px;
}

.positions button {
  min-height: 28px;
  padding: 2px 8px;
  border: 0;
  border-left: 1px solid var(--rule);
  background: transparent;
  color: var(--ink);
  cursor: pointer;
  font-family: var(--heading);
  font-size: 15px;
}

.positions button:first-child {
  border-left: 0;
}

.positions button[aria-checked='true'] {
  background: var(--ink);
  color: var(--sheet);
}

.hold {
  min-height: 28px;
  padding: 2px 16px;
  border: 1px solid var(--copper);
  border-radius: 14px;
  background: transparent;
  color: var(--copper);
  cursor: pointer;
  font-family: var(--heading);
  font-size: 15px;
  font-weight: 600;
  touch-action: none;
  user-select: none;
}

.hold[aria-pressed='true'] {
  background: var(--amber);
  color: #1f2529;
}

.auto,
.rest {
  border: 1px solid var(--copper);
  border-radius: 3px;
  background: transparent;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
}

.auto {
  padding: 1px 6px;
}

.rest {
  margin-top: 12px;
  padding: 5px 12px;
}

@media (pointer: coarse) {
  .positions button,
  .hold {
    min-height: 44px;
  }
}
</style>
