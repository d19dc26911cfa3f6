<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { byId } from '@/byId'
import { fixed } from '@/format'
import { useLive } from '@/stores/live'

import BenchTrace from './BenchTrace.vue'
import SteadyField from './SteadyField.vue'

/** Two meters, a clamp and a lead, each where it is on the car, with what the sound car would show. */
const props = defineProps<{ build: BuildView; active: { meter: string; probe: 'red' | 'black' } }>()
const emit = defineEmits<{ 'update:active': [active: { meter: string; probe: 'red' | 'black' }] }>()

const live = useLive()
const PROBES = ['voltmeter', 'ohmmeter', 'test lamp 5 W', 'test lamp 21 W']
const LEADS = ['fused jumper', 'powered probe', 'powered probe plus', 'powered probe minus', 'bench supply']

const terminals = computed(
  () =>
    new Map(
      props.build.parts
        .filter((part) => !part.housed)
        .flatMap((part) => part.terminals.map((name) => [`${part.id}.${name}`, `${part.name} · ${name}`])),
    ),
)
const wires = computed(() => new Map(props.build.wires.map((wire) => [wire.id, `${wire.label} · ${nameOf(wire.from_terminal)} to ${nameOf(wire.to_terminal)}`])))
const nameOf = (terminal: string) => byId(props.build.parts).get(terminal.split('.')[0])?.name ?? terminal

interface Slot {
  kind: string
  red: string
  black: string
  wire: string
}
/** What each meter is set to here, also before both its probes are on. */
const slots = ref<Record<string, Slot>>({
  '1': { kind: 'voltmeter', red: '', black: '', wire: '' },
  '2': { kind: 'voltmeter', red: '', black: '', wire: '' },
  clamp: { kind: 'clamp', red: '', black: '', wire: '' },
  lead: { kind: 'fused jumper', red: '', black: '', wire: '' },
})
watch(
  () => live.session?.meters,
  (meters) => {
    for (const [name, slot] of Object.entries(slots.value)) {
      const on = meters?.[name]
      if (on) Object.assign(slot, { kind: on.kind, red: on.red ?? '', black: on.black ?? '', wire: on.wire ?? '' })
      else if (slot.red && slot.black) Object.assign(slot, { red: '', black: '' })
      else if (slot.wire) slot.wire = ''
    }
  },
  { immediate: true },
)
const unknown = ref<Record<string, string>>({})

/** Put the meter on the car once it is complete. */
function connect(name: string): void {
  const slot = slots.value[name]!
  if (slot.kind === 'clamp') {
    if (slot.wire) void live.do({ do: 'meter', of: name, meter: { kind: 'clamp', wire: slot.wire } })
    return
  }
  const black = slot.kind.startsWith('powered') ? groundOf() : slot.black
  if (slot.red && black) void live.do({ do: 'meter', of: name, meter: { kind: slot.kind, red: slot.red, black } })
}
const groundOf = () => `${props.build.parts.find((part) => part.kind === 'battery')?.id}.-`

function off(name: string): void {
  Object.assign(slots.value[name]!, { red: '', black: '', wire: '' })
  unknown.value[name] = ''
  void live.do({ do: 'meter', of: name, meter: null })
}

/** Put a probe on the terminal that is called so, or on the first that holds every word. */
function put(name: string, probe: 'red' | 'black' | 'wire', text: string, field: HTMLInputElement): void {
  const all = probe === 'wire' ? wires.value : terminals.value
  const words = text.toLowerCase().split(/[\s·]+/).filter(Boolean)
  if (!words.length) return
  const rows = [...all].filter(([, label]) => words.every((word) => label.toLowerCase().includes(word)))
  const found = rows.find(([, label]) => label.toLowerCase() === text.toLowerCase()) ?? rows[0]
  unknown.value[name] = found ? '' : text
  if (!found) return
  slots.value[name]![probe] = found[0]
  field.value = found[1]
  connect(name)
}

/** Put the active probe on a terminal that was picked elsewhere, and make the other one active. */
function pick(terminal: string): void {
  const { meter, probe } = props.active
  slots.value[meter]![probe] = terminal
  emit('update:active', { meter, probe: probe === 'red' ? 'black' : 'red' })
  connect(meter)
}
function across(red: string, black: string): void {
  Object.assign(slots.value['1']!, { red, black })
  connect('1')
}
function clampOn(wire: string): void {
  slots.value.clamp!.wire = wire
  connect('clamp')
}
defineExpose({ pick, across, clampOn })

const reading = (name: string) => live.calm?.meters[name]

function shown(row: Schemas['MeterReadingView'] | undefined): string {
  if (!row) return '–'
  if (row.kind.startsWith('test lamp') || row.kind === 'powered probe') return row.words
  if (row.value === null) return row.unit === 'Ω' && row.words === 'open' ? 'open' : '–'
  if (row.unit === 'Ω') return row.value >= 1000 ? `${fixed(row.value / 1000, 1)} kΩ` : `${fixed(row.value, row.value < 10 ? 2 : 0)} Ω`
  return `${fixed(row.value, row.unit === 'A' && Math.abs(row.value) >= 10 ? 1 : 2)} ${row.unit}`
}

/** The first meter and the clamp lie ready; the others once they are asked for. */
const asked = ref(new Set(['1', 'clamp']))
const rows = computed(() => Object.keys(slots.value).filter((name) => asked.value.has(name) || live.session?.meters[name]))
const waiting = computed(() => Object.keys(slots.value).filter((name) => !rows.value.includes(name)))
const title: Record<string, string> = { '1': 'Meter 1', '2': 'Meter 2', clamp: 'Clamp', lead: 'Lead' }
</script>

<template>
  <section class="meters" aria-label="Meters">
    <article v-for="name in rows" :key="name" class="sheet meter" :aria-label="title[name]">
      <header>
        <h3>{{ title[name] }}</h3>
        <output v-if="!reading(name)" class="idle">–</output>
        <select v-if="name !== 'clamp'" v-model="slots[name]!.kind" class="field" :aria-label="`Kind of ${title[name]}`" @change="connect(name)">
          <option v-for="kind in name === 'lead' ? LEADS : PROBES" :key="kind">{{ kind }}</option>
        </select>
        <button v-if="live.session?.meters[name]" class="plain" :aria-label="`Take ${title[name]} off`" @click="off(name)">take off</button>
      </header>
      <div v-if="reading(name)" class="shown">
        <output :aria-label="`${title[name]} shows`">{{ shown(reading(name)) }}</output>
        <BenchTrace :name="name" />
      </div>
      <p v-if="reading(name)?.words && !reading(name)!.kind.startsWith('test lamp')" class="words">{{ reading(name)!.words }}</p>
      <p v-else-if="reading(name)?.kind.startsWith('test lamp')" class="words">{{ fixed(reading(name)!.value, 2) }} V, {{ fixed(reading(name)!.lit_percent, 0) }} % light</p>
      <p v-if="reading(name)?.expected !== null && reading(name)" class="words">
        sound car <b>{{ fixed(reading(name)!.expected, 2) }} {{ reading(name)!.unit }}</b>
        <span v-if="reading(name)!.verdict" class="off">■ {{ reading(name)!.verdict }}</span>
        <template v-if="reading(name)!.peak"> · most so far {{ fixed(reading(name)!.peak, 1) }} {{ reading(name)!.unit }}</template>
      </p>
      <template v-if="name === 'clamp'">
        <label><span>wire</span>
          <SteadyField class="field" :value="wires.get(slots[name]!.wire) ?? ''" list="bench-wires" autocomplete="off" placeholder="label, or from and to" aria-label="Wire of the clamp" @put="(text, field) => put(name, 'wire', text, field)" />
        </label>
      </template>
      <template v-else>
        <label v-for="probe in (slots[name]!.kind.startsWith('powered') ? ['red'] : ['red', 'black']) as ('red' | 'black')[]" :key="probe">
          <button
            class="probe"
            :class="[probe, { active: active.meter === name && active.probe === probe }]"
            :aria-pressed="active.meter === name && active.probe === probe"
            :title="`Pick the ${probe} probe's terminal on the plan`"
            :aria-label="`Pick where ${probe} of ${title[name]} goes`"
            @click.prevent="emit('update:active', { meter: name, probe })"
          ></button>
          <SteadyField
            class="field"
            :value="terminals.get(slots[name]![probe]) ?? ''"
            list="bench-terminals"
            autocomplete="off"
            :aria-label="`${probe} of ${title[name]}`"
            placeholder="part and terminal"
            @put="(text, field) => put(name, probe, text, field)"
          />
        </label>
      </template>
      <p v-if="unknown[name]" class="refusal" role="alert">Nothing is called “{{ unknown[name] }}”.</p>
    </article>
    <p v-if="waiting.length" class="more">
      <button v-for="name in waiting" :key="name" class="plain" @click="asked.add(name)">{{ name === 'lead' ? 'Jumper, probe or supply' : 'Second meter' }}</button>
    </p>
    <datalist id="bench-terminals">
      <option v-for="[terminal, label] in terminals" :key="terminal" :value="label"></option>
    </datalist>
    <datalist id="bench-wires">
      <option v-for="[wire, label] in wires" :key="wire" :value="label"></option>
    </datalist>
  </section>
</template>

<style scoped>
.meters {
  display: grid;
  gap: 8px;
}

.meter {
  padding: 6px 10px 8px;
}

header {
  display: flex;
  gap: 8px;
  align-items: center;
}

header select {
  flex: 1;
  min-width: 0;
}

.shown {
  display: flex;
  gap: 10px;
  align-items: center;
}

output {
  min-width: 118px;
  color: var(--amber-ink);
  font-family: var(--heading);
  font-size: 34px;
  font-weight: 600;
  line-height: 1.1;
}

output.idle {
  min-width: 0;
  color: var(--quiet);
  font-size: 18px;
}

.more {
  display: flex;
  justify-content: space-between;
  margin: 0;
}

.words {
  margin: 0 0 2px;
  color: var(--quiet);
  font-size: 13px;
}

.off {
  margin-left: 6px;
  color: var(--brick);
  font-weight: 600;
}

label {
  display: grid;
  align-items: center;
  margin-top: 4px;
  gap: 6px;
  grid-template-columns: minmax(30px, auto) 1fr;
}

.field {
  min-width: 0;
  height: 28px;
}

.probe {
  width: 24px;
  height: 24px;
  padding: 0;
  border: 2px solid var(--rule);
  border-radius: 50%;
  cursor: pointer;
}

.probe.red {
  background: var(--brick);
}

.probe.black {
  background: var(--ink);
}

.probe.active {
  outline: 3px solid var(--amber);
}
</style>
