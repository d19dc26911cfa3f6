<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { refusal, useEdits } from '@/api/edits'
import {
  useBuild,
  useBuildId,
  useCatalogueLoads,
  useChoices,
  useReadings,
  useResults,
} from '@/api/queries'
import EditCell from '@/components/EditCell.vue'
import NewLoad from '@/components/NewLoad.vue'
import { fixed } from '@/format'
import { changePart, ratingFigures, ratingText, rewire, type StockLine, stockLines } from '@/stock'

const id = useBuildId()
const { data: build } = useBuild(id)
const { data: results } = useResults(id)
const { data: choices } = useChoices(id)
const { data: catalogue } = useCatalogueLoads()
const { data: readings } = useReadings(id)
const { edit } = useEdits(id)

const lines = computed(() => (build.value ? stockLines(build.value) : []))
const live = computed(() => (readings.value?.battery_a ?? 0) > 0.01)
const places = computed(
  () => build.value?.places.map((row) => ({ value: row.id, label: row.name })) ?? [],
)
const kinds = computed(
  () => catalogue.value?.map((row) => ({ value: row.name, label: row.name })) ?? [],
)
const switches = computed(() => [
  { value: '', label: 'key only' },
  ...(choices.value?.switches.map((row) => ({ value: row.terminal, label: row.name })) ?? []),
])
const KEYS = ['always', 'accessory', 'run'].map((value) => ({ value, label: value }))
const THROUGH = ['direct', 'relay'].map((value) => ({ value, label: value }))

function label(list: { value: string; label: string }[], value: string | null | undefined): string {
  return list.find((row) => row.value === (value ?? ''))?.label ?? ''
}

function rename(line: StockLine) {
  return (name: string, done: () => void) => {
    const operations = [changePart(line.load.id, { name })]
    if (!line.shared && line.circuit && line.circuit.name === line.load.name) {
      operations.push({ op: 'change', collection: 'circuits', id: line.circuit.id, fields: { name } })
    }
    return edit(`Rename ${line.load.name} to ${name}`.slice(0, 200), operations, done)
  }
}

function change(line: StockLine, words: string, field: string) {
  return (value: string, done: () => void) =>
    edit(`${words} of ${line.load.name}`, [changePart(line.load.id, { [field]: value })], done)
}

function changeKind(line: StockLine) {
  return (value: string, done: () => void) =>
    edit(
      `${line.load.name} is ${value}`,
      [changePart(line.load.id, { catalogue: value, figures: {} })],
      done,
    )
}

function changeRating(line: StockLine) {
  return async (text: string, done: () => void) => {
    const usual = ratingText(line.load, catalogue.value ?? [])
    const figures = ratingFigures(line.load, text, usual)
    if (figures === null) {
      refusal.value = `“${text}” is no rating. Type a number with W or A, or leave it empty for the typical figure.`
      return false
    }
    return edit(`Rating of ${line.load.name}`, [changePart(line.load.id, { figures })], done)
  }
}

function changeWiring(line: StockLine, words: string, field: 'key' | 'switch' | 'through') {
  return (value: string, done: () => void) => {
    const fields = { [field]: value || null, ...(field === 'through' ? {} : { fuse: null }) }
    return edit(`${words} of ${line.circuit!.name}`, [rewire(line.circuit!, fields)], done)
  }
}

function changeFuse(line: StockLine) {
  return (fuse: string, done: () => void) =>
    edit(`Fuse of ${line.circuit!.name}`, [rewire(line.circuit!, { fuse })], done)
}

function fusesFor(line: StockLine) {
  const key = line.circuit?.intent?.key
  return (choices.value?.fuses ?? [])
    .filter((row) => row.key === key || row.fuse === line.circuit?.intent?.fuse)
    .map((row) => ({ value: row.fuse, label: row.name }))
}

function fuseName(line: StockLine): string {
  return build.value?.parts.find((part) => part.id === line.circuit?.intent?.fuse)?.name ?? ''
}

function sizing(line: StockLine): Schemas['CircuitResult'] | undefined {
  return results.value?.circuits[line.load.circuit ?? '']
}

function fuseRating(line: StockLine): string {
  const fuse = sizing(line)?.fuse
  return fuse ? `${results.value?.fuses[fuse]?.rating_a ?? '–'} A` : '–'
}

function remove(line: StockLine): void {
  void edit(`Remove ${line.load.name}`, [{ op: 'remove_load', load: line.load.id }])
}
</script>

<template>
  <section v-if="build" class="stock">
    <NewLoad :build="build" />
    <table class="lines">
      <caption class="visually-hidden">
        Loads of {{ build.name }}
      </caption>
      <thead>
        <tr>
          <th scope="col">Load</th>
          <th scope="col">What it is</th>
          <th scope="col">Where</th>
          <th scope="col" class="figure">Rated</th>
          <th scope="col">Live from</th>
          <th scope="col">Switched by</th>
          <th scope="col">Through</th>
          <th scope="col">Behind</th>
          <th scope="col" class="figure">Fuse</th>
          <th scope="col" class="figure">Wire</th>
          <th v-if="live" scope="col" class="figure">Now, A</th>
          <th scope="col" class="no-print"><span class="visually-hidden">Remove</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="line in lines" :key="line.load.id">
          <td class="name">
            <EditCell label="name" :text="line.load.name" :save="rename(line)" />
          </td>
          <td>
            <EditCell
              label="what it is"
              :text="line.load.catalogue ?? ''"
              :options="kinds"
              :save="changeKind(line)"
            />
          </td>
          <td>
            <EditCell
              label="where"
              :text="label(places, line.load.place)"
              :value="line.load.place"
              :options="places"
              :save="change(line, 'Place', 'place')"
            />
          </td>
          <td class="figure" :class="{ quiet: line.typical }">
            <EditCell
              label="rating"
              :text="ratingText(line.load, catalogue ?? [])"
              :note="line.typical ? 'Typical figure of the catalogue. Type your part’s own.' : 'Your figure. Empty it for the typical one.'"
              :save="changeRating(line)"
            />
          </td>
          <template v-if="line.circuit?.intent">
            <td>
              <EditCell
                label="live from"
                :text="line.circuit.intent.key"
                :options="KEYS"
                :save="changeWiring(line, 'Key position', 'key')"
              />
            </td>
            <td>
              <EditCell
                label="switched by"
                :text="label(switches, line.circuit.intent.switch)"
                :value="line.circuit.intent.switch ?? ''"
                :options="switches"
                :save="changeWiring(line, 'Switch', 'switch')"
              />
            </td>
            <td>
              <EditCell
                label="through"
                :text="line.circuit.intent.through"
                :options="THROUGH"
                :save="changeWiring(line, 'Relay or not', 'through')"
              />
            </td>
            <td>
              <EditCell
                label="behind"
                :text="fuseName(line)"
                :value="line.circuit.intent.fuse"
                :options="fusesFor(line)"
                :save="changeFuse(line)"
              />
            </td>
          </template>
          <td v-else colspan="4" class="quiet">wired by hand</td>
          <td class="figure">
            <RouterLink
              v-if="line.load.circuit"
              :to="{ name: 'circuits', params: { id, circuit: line.load.circuit } }"
              title="Why this fuse and this wire"
            >
              {{ fuseRating(line) }}
            </RouterLink>
          </td>
          <td class="figure">{{ sizing(line)?.size ?? '–' }}</td>
          <td v-if="live" class="figure live">
            {{ fixed(readings?.loads[line.load.id]?.amps, 2) }}
          </td>
          <td class="no-print">
            <AButton
              type="text"
              size="small"
              :aria-label="`Remove ${line.load.name}`"
              :title="`Remove ${line.load.name}`"
              @click="remove(line)"
            >
              ✕
            </AButton>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="lines.length === 0" class="empty">
      No loads yet. Type the first one above: the horn is a good start.
    </p>
    <p v-else class="legend quiet">
      A rating in quiet ink is typical of its kind: type your own part’s figure over it. Loads of one
      circuit share live from, switch, relay and fuse.
    </p>
  </section>
</template>

<style scoped>
.stock {
  min-width: 1000px;
}

.lines {
  background: var(--sheet);
  table-layout: fixed;
}

.lines td {
  overflow: hidden;
  padding: 1px 3px;
}

.lines th {
  position: sticky;
  z-index: 1;
  top: 0;
  background: var(--sheet);
}

.lines th:nth-child(n) {
  width: 6%;
}

.lines th:nth-child(1),
.lines th:nth-child(2),
.lines th:nth-child(8) {
  width: 13.5%;
}

.lines th:nth-child(3),
.lines th:nth-child(6) {
  width: 13%;
}

.lines th:nth-child(5),
.lines th:nth-child(10) {
  width: 7%;
}

.lines th:last-child {
  width: 34px;
}

.name {
  font-weight: 600;
}

.legend {
  padding: 8px 12px;
}
</style>
