<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { byId } from '@/byId'
import { fixed } from '@/format'

const props = defineProps<{ build: BuildView; layout: Schemas['LayoutView'] | undefined }>()
const chosen = defineModel<string | null>('chosen', { required: true })
const emit = defineEmits<{ run: [run: string] }>()

const id = useBuildId()
const { edit } = useEdits(id)
const wanted = ref('')
const through = ref<string[]>([])

const rows = computed(() =>
  props.build.wires
    .map((wire) => ({
      ...wire,
      from: ending(wire.from_terminal),
      to: ending(wire.to_terminal),
      laid: props.layout?.wires[wire.id],
    }))
    .filter((row) => `${row.label} ${row.from} ${row.to}`.toLowerCase().includes(wanted.value.toLowerCase())),
)
const wire = computed(() => rows.value.find((row) => row.id === chosen.value) ?? null)

function ending(terminal: string): string {
  const [part = '', ...rest] = terminal.split('.')
  return `${byId(props.build.parts).get(part)?.name ?? part} ${rest.join('.')}`
}

function place(spot: string | undefined): string {
  return props.build.places.find((row) => row.id === spot)?.name ?? ''
}

function runName(run: string): string {
  const row = props.build.runs.find((one) => one.id === run)
  return row ? `${place(row.from_place)} – ${place(row.to_place)}` : run
}

async function pin(runs: string[]): Promise<void> {
  if (!wire.value) return
  const words = runs.length ? `Pin the way of ${wire.value.label}` : `Shortest way for ${wire.value.label}`
  await edit(words, [{ op: 'pin_way', wire: wire.value.id, through: runs }], () => (through.value = []))
}
</script>

<template>
  <div class="pane split">
    <form @submit.prevent>
      <input v-model="wanted" type="search" aria-label="Filter wires" placeholder="Label or what it joins" />
      <span class="quiet">{{ rows.length }} of {{ build.wires.length }} wires</span>
    </form>
    <div class="rows">
      <table>
        <caption class="visually-hidden">
          Wires
        </caption>
        <thead>
          <tr>
            <th scope="col">Wire</th>
            <th scope="col">From</th>
            <th scope="col">To</th>
            <th scope="col" class="figure">Size</th>
            <th scope="col" class="figure">Length, m</th>
            <th scope="col">Way</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.id" :class="{ chosen: row.id === chosen }" @click="chosen = row.id">
            <td class="name">
              <button type="button" :aria-current="row.id === chosen" @click.stop="chosen = row.id">{{ row.label }}</button>
            </td>
            <td>{{ row.from }}</td>
            <td>{{ row.to }}</td>
            <td class="figure">{{ row.laid?.size }}</td>
            <td class="figure">{{ fixed(row.laid?.length_m, 2) }}</td>
            <td>
              <span v-if="row.laid && !row.laid.has_way" class="far">▲ none</span>
              <template v-else>{{ row.laid?.runs.length ?? 0 }} {{ row.laid?.runs.length === 1 ? 'run' : 'runs' }}{{ row.laid?.pinned ? ', pinned' : '' }}</template>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="build.wires.length === 0" class="empty">No wires yet: wire the loads in Take stock.</p>
    </div>
    <section v-if="wire" class="detail" :aria-label="wire.label">
      <h2>{{ wire.label }}: {{ wire.from }} to {{ wire.to }}</h2>
      <p>
        <template v-if="wire.laid?.runs.length">
          Goes along
          <button v-for="run in wire.laid.runs" :key="run" type="button" class="plain" @click="emit('run', run)">{{ runName(run) }}</button>
        </template>
        <template v-else-if="wire.laid?.has_way">Both ends are in one place, or its length is its own.</template>
        <b v-else class="far">▲ No run leads there: add one.</b>
        <span class="quiet"> {{ wire.laid?.pinned ? 'Pinned by you.' : 'The shortest way.' }}</span>
      </p>
      <p class="ticks">
        <label>
          Lead it along
          <select v-model="through[0]" aria-label="Lead it along">
            <option :value="undefined">choose a run…</option>
            <option v-for="run in build.runs" :key="run.id" :value="run.id">{{ runName(run.id) }}</option>
          </select>
        </label>
        <label v-if="through[0]">
          and then
          <select v-model="through[1]" aria-label="And then along">
            <option :value="undefined">–</option>
            <option v-for="run in build.runs" :key="run.id" :value="run.id">{{ runName(run.id) }}</option>
          </select>
        </label>
        <AButton size="small" type="primary" :disabled="!through[0]" @click="pin(through.filter(Boolean))">Pin this way</AButton>
        <AButton v-if="wire.laid?.pinned" size="small" @click="pin([])">Shortest way again</AButton>
      </p>
    </section>
  </div>
</template>

<style scoped src="../pane.css"></style>
