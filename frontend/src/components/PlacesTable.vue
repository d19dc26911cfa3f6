<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { refusal, useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { typedNumber } from '@/format'
import { add, change, freshId, options, remove } from '@/looms'

import EditCell from './EditCell.vue'

type Place = Schemas['PlaceView']

const props = defineProps<{ build: BuildView; layout: Schemas['LayoutView'] | undefined }>()
const chosen = defineModel<string | null>('chosen', { required: true })
const emit = defineEmits<{ join: [place: string] }>()

const LEVELS = ['floor', 'waist', 'roof']

const id = useBuildId()
const { edit } = useEdits(id)
const fresh = ref('')
const zone = ref('cabin')
const zones = computed(() => Object.keys(props.layout?.zones ?? {}))
const held = computed(() => {
  const counts: Record<string, number> = {}
  for (const part of props.build.parts) counts[part.place] = (counts[part.place] ?? 0) + 1
  return counts
})

const place = computed(() => props.build.places.find((row) => row.id === chosen.value))
const ORDER = ['load', 'switch', 'key switch', 'sensor']
/** What the chosen place holds, by kind, loads and what is worked by hand first. */
const here = computed(() => {
  const kinds = new Map<string, BuildView['parts']>()
  for (const part of props.build.parts) {
    if (part.place === chosen.value) kinds.set(part.kind, [...(kinds.get(part.kind) ?? []), part])
  }
  const at = (kind: string) => (ORDER.indexOf(kind) + 1 || ORDER.length + 1)
  return [...kinds].sort((one, other) => at(one[0]) - at(other[0]))
})

async function addPlace(): Promise<void> {
  const name = fresh.value.trim()
  const usual = props.layout?.zones[zone.value]
  if (!name || !usual) return
  const place = freshId(name, props.build.places)
  const value = {
    id: place,
    name,
    zone: zone.value,
    ...usual,
    x_m: Math.round(props.build.body.length_m * 50) / 100,
    y_m: 0,
  }
  await edit(`Add place ${name}`, [add('places', value)], () => {
    fresh.value = ''
    chosen.value = place
  })
}

function set(row: Place, field: string, words: string) {
  return (value: string, done: () => void) =>
    edit(`${words} of ${row.name}`, [change('places', row.id, { [field]: value })], done)
}

function setNumber(row: Place, field: string, words: string) {
  return async (text: string, done: () => void) => {
    const value = typedNumber(text)
    if (value === null) {
      refusal.value = `“${text}” is no number for ${words.toLowerCase()}.`
      return false
    }
    return edit(`${words} of ${row.name}`, [change('places', row.id, { [field]: value })], done)
  }
}

function setWet(row: Place): void {
  const words = row.wet ? 'dry' : 'wet'
  void edit(`${row.name} is ${words}`, [change('places', row.id, { wet: !row.wet })])
}

function drop(row: Place): void {
  void edit(`Remove place ${row.name}`, [remove('places', row.id)])
}
</script>

<template>
  <div class="pane split">
    <form @submit.prevent="addPlace">
      <input v-model="fresh" maxlength="80" aria-label="New place" placeholder="New place: roof, left door…" />
      <select v-model="zone" aria-label="Zone of the new place">
        <option v-for="one in zones" :key="one">{{ one }}</option>
      </select>
      <AButton html-type="submit" type="primary" size="small">Add the place</AButton>
    </form>
    <div class="rows">
      <table>
        <caption class="visually-hidden">
          Places
        </caption>
        <thead>
          <tr>
            <th scope="col">Place</th>
            <th scope="col">Zone</th>
            <th scope="col">Level</th>
            <th scope="col" class="figure" title="Ambient temperature">°C</th>
            <th scope="col">Wet</th>
            <th scope="col" class="figure" title="From the nose rearwards">Back, m</th>
            <th scope="col" class="figure" title="From the middle to the right">Right, m</th>
            <th scope="col" class="figure">Holds</th>
            <th scope="col"><span class="visually-hidden">More</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in build.places" :key="row.id" :class="{ chosen: row.id === chosen }" @click="chosen = row.id">
            <td class="name"><EditCell label="place" :text="row.name" :save="set(row, 'name', 'Name')" /></td>
            <td><EditCell label="zone" :text="row.zone" :options="options(zones)" :save="set(row, 'zone', 'Zone')" /></td>
            <td><EditCell label="level" :text="row.level" :options="options(LEVELS)" :save="set(row, 'level', 'Level')" /></td>
            <td class="figure"><EditCell label="ambient" :text="String(row.ambient_c)" :save="setNumber(row, 'ambient_c', 'Ambient')" /></td>
            <td><input type="checkbox" :checked="row.wet" :aria-label="`${row.name} is wet`" @change="setWet(row)" /></td>
            <td class="figure"><EditCell label="back" :text="String(row.x_m)" :save="setNumber(row, 'x_m', 'Position')" /></td>
            <td class="figure"><EditCell label="right" :text="String(row.y_m)" :save="setNumber(row, 'y_m', 'Position')" /></td>
            <td class="figure">{{ held[row.id] ?? 0 }}</td>
            <td class="acts">
              <button type="button" :aria-label="`Run from ${row.name}`" title="Start a run here" @click.stop="emit('join', row.id)">→</button>
              <button v-if="!held[row.id]" type="button" :aria-label="`Remove ${row.name}`" @click.stop="drop(row)">✕</button>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="build.places.length === 0" class="empty">No places yet. Add where things live: nose, dash, tail.</p>
    </div>
    <section v-if="place" class="detail" :aria-label="`At ${place.name}`">
      <h2>{{ place.name }}</h2>
      <p v-if="!here.length" class="quiet">Nothing is here yet. A load is put here in Take stock, by its place.</p>
      <template v-for="[kind, parts] in here" :key="kind">
        <h3 class="kind">{{ kind }} <span class="quiet">{{ parts.length }}</span></h3>
        <p class="ticks">
          <template v-for="part in parts" :key="part.id">
            <RouterLink v-if="part.circuit" :to="{ name: 'circuits', params: { id, circuit: part.circuit } }">{{ part.name }}</RouterLink>
            <span v-else>{{ part.name }}</span>
          </template>
        </p>
      </template>
    </section>
  </div>
</template>

<style scoped src="../pane.css"></style>
<style scoped>
.kind::first-letter {
  text-transform: uppercase;
}
</style>
