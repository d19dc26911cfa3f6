<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, onMounted, ref } from 'vue'

import type { BuildView } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import SteadyField from '@/components/SteadyField.vue'
import { current, fixed, typedNumber } from '@/format'
import { changed, copied, type Fields, type ScenarioRow, typedAmps } from '@/scenarios'

/** One scenario: what makes it up, what is on for how much of the time, and what is shed. */
const props = defineProps<{ build: BuildView; row: ScenarioRow; shown: boolean }>()
const emit = defineEmits<{ choose: [scenario: string] }>()
const { edit } = useEdits(useBuildId())

const ROADS = ['', 'day', 'night', 'night and rain', 'parked with side lamps', 'hazards', 'cranking cold']
const PACES = { '': 'as its switches say', idle: 'idling, in a queue', town: 'in town', motorway: 'motorway', show: 'at a show' }
const KEYS = ['off', 'accessory', 'run', 'crank']

const sheet = ref<HTMLElement>()
onMounted(() => props.shown && sheet.value?.scrollIntoView({ block: 'nearest' }))

const wrong = ref('')
const kept = computed(() => props.build.scenarios.find((scenario) => scenario.id === props.row.id))
const loads = computed(() => [...props.row.loads].sort((one, other) => other.amps - one.amps || one.name.localeCompare(other.name)))
const others = computed(() => {
  const listed = new Set(props.row.loads.map((load) => load.load))
  return props.build.parts.filter((part) => part.kind === 'load' && part.circuit && !listed.has(part.id))
})
const shedNames = computed(() => props.row.could_shed.map((load) => props.row.loads.find((row) => row.load === load)?.name ?? load))

function set(label: string, fields: Fields): Promise<boolean> {
  wrong.value = ''
  return edit(`${props.row.name}: ${label}`, [changed(props.build, props.row, fields)])
}

function number(text: string, least: number, most: number, unit: string, put: (value: number) => void): void {
  const value = typedNumber(text)
  if (value === null || value < least || value > most) wrong.value = `“${text}” is not ${least} to ${most} ${unit}.`
  else put(value)
}

function share(load: string, name: string, text: string): void {
  number(text.replace('%', ''), 0, 100, '% of the time', (percent) => {
    void set(`${name} ${percent} % of the time`, { on: { ...kept.value?.on, [load]: percent / 100 } })
  })
}

function asUsual(load: string, name: string): void {
  const on = { ...kept.value?.on }
  delete on[load]
  void set(`${name} as usual`, { on })
}

function shed(load: string, name: string, off: boolean): void {
  const before = kept.value?.shed ?? []
  void set(`${name} ${off ? 'shed' : 'on again'}`, { shed: off ? [...before, load] : before.filter((id) => id !== load) })
}

function measured(text: string): void {
  if (!text.trim()) return void set('as worked out', { measured_a: null })
  const amps = typedAmps(text)
  if (amps === null || amps <= 0 || amps > 1000) wrong.value = `“${text}” is no current. Type it as 38 mA or 1.2 A.`
  else void set(`${current(amps)} measured`, { measured_a: amps })
}

async function copy(): Promise<void> {
  const operation = copied(props.build, props.row, `${props.row.name}, mine`)
  if (operation.op !== 'add') return
  if (await edit(`Scenario ${String(operation.value.name)}`, [operation])) emit('choose', String(operation.value.id))
}

function drop(): void {
  void edit(props.row.own ? `${props.row.name} gone` : `${props.row.name} as usual`, [
    { op: 'remove', collection: 'scenarios', id: props.row.id },
  ])
}
</script>

<template>
  <section ref="sheet" class="sheet" :aria-label="row.name">
    <div class="over">
      <h2>{{ row.name }}</h2>
      <span class="quiet">{{ row.when }}</span>
      <AButton v-if="kept" size="small" @click="drop">{{ row.own ? 'Take it out' : 'All as usual' }}</AButton>
      <AButton size="small" @click="copy">A scenario of your own from it</AButton>
    </div>
    <p v-if="wrong" class="refusal" role="alert">{{ wrong }}</p>
    <p v-if="row.not_fed.length" class="quiet">Not fed with the key at {{ row.key }}, so not counted: {{ row.not_fed.join(', ') }}.</p>
    <p v-if="shedNames.length">
      <AButton size="small" @click="set(`${shedNames.join(', ')} shed`, { shed: [...(kept?.shed ?? []), ...row.could_shed] })">
        Shed {{ shedNames.join(', ') }}
      </AButton>
      would do.
    </p>
    <div class="columns">
      <div class="fields">
        <label v-if="row.own">Name <SteadyField class="field" :value="row.name" @put="(text) => text.trim() && set(`called ${text.trim()}`, { name: text.trim() })" /></label>
        <label>
          Key
          <select class="field" :value="row.key" @change="set('key', { key: ($event.target as HTMLSelectElement).value })">
            <option v-for="key in KEYS" :key="key">{{ key }}</option>
          </select>
        </label>
        <label>
          On anyway
          <select class="field" :value="row.road" @change="set('road state', { road: ($event.target as HTMLSelectElement).value })">
            <option v-for="road in ROADS" :key="road" :value="road">{{ road || 'nothing but what you say' }}</option>
          </select>
        </label>
        <label>
          What comes and goes
          <select class="field" :value="row.pace" @change="set('pace', { pace: ($event.target as HTMLSelectElement).value })">
            <option v-for="(said, pace) in PACES" :key="pace" :value="pace">{{ said }}</option>
          </select>
        </label>
        <label>
          Engine, rpm
          <SteadyField class="field short" :value="row.engine_rpm" @put="(text) => number(text, 0, 20000, 'rpm', (value) => void set(`${value} rpm`, { engine_rpm: value }))" />
        </label>
        <label>
          Outside, °C
          <SteadyField class="field short" :value="row.outside_c" @put="(text) => number(text, -60, 70, '°C', (value) => void set(`${value} °C`, { outside_c: value }))" />
        </label>
        <label>
          Battery charged to, %
          <SteadyField class="field short" :value="Math.round(row.charge * 100)" @put="(text) => number(text, 0, 100, '%', (value) => void set(`charge ${value} %`, { charge: value / 100 }))" />
        </label>
        <label class="check">
          <input type="checkbox" :checked="row.charges" @change="set(row.charges ? 'alternator failed' : 'alternator works', { charges: !row.charges })" />
          alternator works
        </label>
        <label>
          Measured from the battery
          <SteadyField class="field short" :value="row.measured_a === null ? '' : current(row.measured_a)" placeholder="38 mA" @put="measured" />
        </label>
        <p v-if="row.measured_a !== null" class="quiet">Worked out: {{ current(row.draws_a) }}.</p>
      </div>
      <div class="scrolls">
        <table>
          <thead>
            <tr>
              <th scope="col">On in it</th>
              <th scope="col" class="figure">Mean</th>
              <th scope="col" class="figure">% of the time</th>
              <th scope="col">Where that comes from</th>
              <th scope="col">Shed</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="load in loads" :key="load.load" :class="{ shed: load.shed }">
              <th scope="row">{{ load.name }}</th>
              <td class="figure">{{ current(load.amps) }}</td>
              <td class="figure">
                <SteadyField
                  class="field percent"
                  :aria-label="`${load.name}, % of the time`"
                  :value="fixed(load.share * 100, load.share > 0 && load.share < 0.01 ? 1 : 0)"
                  @put="(text) => share(load.load, load.name, text)"
                />
              </td>
              <td>
                {{ load.why }}
                <button v-if="kept?.on[load.load] !== undefined" class="plain" @click="asUsual(load.load, load.name)">as usual</button>
              </td>
              <td>
                <input
                  type="checkbox"
                  :checked="load.shed"
                  :aria-label="`Shed ${load.name}`"
                  @change="shed(load.load, load.name, !load.shed)"
                />
              </td>
            </tr>
            <tr v-for="part in row.others" :key="part.id">
              <th scope="row">{{ part.name }}</th>
              <td class="figure">{{ current(part.amps) }}</td>
              <td class="figure">–</td>
              <td>its coil or electronics</td>
              <td></td>
            </tr>
          </tbody>
        </table>
        <p v-if="!loads.length && !row.others.length" class="quiet">Nothing is on.</p>
        <label v-if="others.length">
          Also on
          <select
            class="field"
            value=""
            @change="
              (event) => {
                const part = others.find((other) => other.id === (event.target as HTMLSelectElement).value)
                if (part) share(part.id, part.name, '100')
              }
            "
          >
            <option value="">choose a load…</option>
            <option v-for="part in others" :key="part.id" :value="part.id">{{ part.name }}</option>
          </select>
        </label>
      </div>
    </div>
  </section>
</template>

<style scoped>
section {
  padding: 8px 12px 12px;
}

.over {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
  margin-bottom: 6px;
}

.columns {
  display: grid;
  gap: 16px;
  grid-template-columns: 230px minmax(0, 1fr);
}

.fields label {
  display: flex;
  flex-direction: column;
  margin-bottom: 6px;
  color: var(--quiet);
  font-size: 13px;
}

.fields .check {
  flex-direction: row;
  gap: 6px;
  color: var(--ink);
}

.short {
  width: 90px;
}

.percent {
  width: 58px;
  text-align: right;
}

.scrolls {
  overflow-x: auto;
}

tbody th {
  color: var(--ink);
  font-family: var(--text);
  font-weight: 400;
}

tr.shed th,
tr.shed td {
  color: var(--quiet);
  text-decoration: line-through;
}

@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
