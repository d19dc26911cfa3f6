<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answered, client, Refused, type Schemas } from '@/api/client'
import { useBuild, useBuildId } from '@/api/queries'
import { byId } from '@/byId'
import { moment } from '@/format'

/** The car as it stands: parts that are not there yet, and jumpers that stand in for switches. */
const props = defineProps<{ today: Schemas['TodayView'] }>()

const id = useBuildId()
const queries = useQueryClient()
const { data: build } = useBuild(id)
const refused = ref('')
const volts = ref('')
const search = ref('')
const SHOWN = 12
const ABSENT = ['load', 'switch', 'sensor', 'relay', 'module', 'box', 'fuse', 'flasher']

const parts = computed(() => {
  const words = search.value.trim().toLowerCase()
  return (build.value?.parts ?? [])
    .filter((part) => ABSENT.includes(part.kind) && !props.today.missing.includes(part.id))
    .filter((part) => words && part.name.toLowerCase().includes(words))
    .slice(0, SHOWN)
})
const missing = computed(() =>
  props.today.missing.map((part) => byId(build.value?.parts).get(part)).filter((part) => part !== undefined),
)

function positions(part: string): string[] {
  const row = byId(build.value?.parts).get(part)
  return row?.contacts?.positions.slice(1).map((position) => position.name) ?? []
}

function jumperOf(part: string): string {
  return props.today.jumpers.find((jumper) => jumper.part === part)?.position ?? ''
}

async function put(body: Schemas['TodayRequest']): Promise<boolean> {
  refused.value = ''
  try {
    await answered(client.PUT('/api/builds/{build_id}/today', { params: { path: { build_id: id.value } }, body }))
    await queries.invalidateQueries({ queryKey: ['plan', id.value] })
    return true
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = problem.message
    return false
  }
}

async function measure(): Promise<void> {
  if (await put({ battery: volts.value })) volts.value = ''
}

const setMissing = (parts: string[]) =>
  put({ missing: parts, jumpers: props.today.jumpers.filter((jumper) => parts.includes(jumper.part)) })

function setJumper(part: string, position: string): void {
  const others = props.today.jumpers.filter((jumper) => jumper.part !== part)
  void put({ jumpers: position ? [...others, { part, position }] : others })
}
</script>

<template>
  <div class="today">
    <form @submit.prevent="measure">
      <label>
        Battery at rest, measured on its posts
        <input v-model="volts" inputmode="decimal" :placeholder="today.battery_v ? `${today.battery_v.toFixed(2)} V` : 'for example 12.41'" />
      </label>
      <AButton html-type="submit" :disabled="!volts.trim()">Use it</AButton>
      <AButton v-if="today.battery_v" @click="put({ battery: '' })">Forget it</AButton>
    </form>
    <p class="quiet">
      <template v-if="today.battery_v && today.battery_at">
        {{ today.battery_v.toFixed(2) }} V, measured {{ moment(today.battery_at) }}. Every band below goes by it.
      </template>
      <template v-else>Not measured: bands reach from half charged to just charged.</template>
    </p>
    <h3>Not there yet</h3>
    <p v-if="!missing.length" class="quiet">
      Everything is there. What you name here is no fault, and its steps wait.
    </p>
    <ul v-else>
      <li v-for="part in missing" :key="part.id">
        <span>{{ part.name }}</span>
        <label v-if="positions(part.id).length">
          a jumper stands in
          <select :value="jumperOf(part.id)" @change="setJumper(part.id, ($event.target as HTMLSelectElement).value)">
            <option value="">no</option>
            <option v-for="position in positions(part.id)" :key="position" :value="position">as {{ position }}</option>
          </select>
        </label>
        <AButton size="small" @click="setMissing(today.missing.filter((row) => row !== part.id))">It is there now</AButton>
      </li>
    </ul>
    <label>
      Name one that is not there
      <input v-model="search" type="search" placeholder="lamp, switch, box …" />
    </label>
    <ul v-if="parts.length">
      <li v-for="part in parts" :key="part.id">
        <span>{{ part.name }}</span>
        <AButton size="small" @click="setMissing([...today.missing, part.id])">Not there yet</AButton>
      </li>
    </ul>
    <p v-if="today.jumpers.length" class="caution">
      <span aria-hidden="true">⚠</span> {{ today.jumpers.length === 1 ? 'A jumper is' : `${today.jumpers.length} jumpers are` }} in
      the car. Fused, and out again before you drive.
    </p>
    <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
  </div>
</template>

<style scoped>
form {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: end;
}

label {
  display: block;
}

input,
select {
  min-height: 32px;
  padding: 2px 8px;
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

input {
  display: block;
  width: 210px;
}

h3 {
  margin: 14px 0 4px;
}

ul {
  padding: 0;
  margin: 4px 0;
  list-style: none;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  justify-content: space-between;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}

.caution {
  padding: 6px 10px;
  border-left: 4px solid var(--amber);
  margin-top: 10px;
  background: var(--sheet);
}
</style>
