<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'

import { answered, client, Refused } from '@/api/client'
import { useBuild, useBuildId, useMake } from '@/api/queries'
import MakeBoard from '@/components/MakeBoard.vue'
import MakeCuts from '@/components/MakeCuts.vue'
import MakeOld from '@/components/MakeOld.vue'
import MakePlugs from '@/components/MakePlugs.vue'
import MakeShopping from '@/components/MakeShopping.vue'
import MakeSplices from '@/components/MakeSplices.vue'
import MakeWires from '@/components/MakeWires.vue'
import { fixed } from '@/format'

/** Everything needed to make the loom: wires, what is cut from which reel, plugs, the fuse chart, what to buy. */
const id = useBuildId()
const route = useRoute()
const queries = useQueryClient()
const { data: build } = useBuild(id)

const stage = ref<number>()
const { data: make, error } = useMake(id, stage)
const refused = ref('')

const LISTS = [
  { name: '', title: 'Wires', file: 'wires' },
  { name: 'cuts', title: 'Cut list', file: 'cuts' },
  { name: 'board', title: 'Loom board', file: '' },
  { name: 'plugs', title: 'Plugs and pins', file: 'plugs' },
  { name: 'splices', title: 'Splices', file: 'splices' },
  { name: 'chart', title: 'Fuse chart', file: 'fuse-chart' },
  { name: 'shopping', title: 'Shopping list', file: 'shopping' },
  { name: 'old', title: 'Old loom', file: 'old-loom' },
]
const list = computed(() => LISTS.find((row) => row.name === (route.params.list ?? '')) ?? LISTS[0]!)
const query = computed(() => (stage.value === undefined || !list.value.file ? '' : `?stage=${stage.value}`))
const file = (name: string, ending: string) => `/api/builds/${id.value}/make/${name}.${ending}${query.value}`

/** Tick a step of wires off, or take it back; nothing else is at work on the same wires meanwhile. */
async function tick(wires: string[], step: string, done: boolean): Promise<void> {
  refused.value = ''
  try {
    const answer = await answered(
      client.POST('/api/builds/{build_id}/made', {
        params: { path: { build_id: id.value } },
        body: { wires, step, done, stage: stage.value },
      }),
    )
    queries.setQueryData(['make', id.value, stage.value, build.value?.revision], answer)
    await Promise.all(['make', 'made', 'journal'].map((name) => queries.invalidateQueries({ queryKey: [name, id.value] })))
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = problem.message
  }
}

/** A wire that was done otherwise is recorded anew as it now is. */
async function built(wire: string): Promise<void> {
  const last = make.value?.done[wire]?.at(-1)
  if (!last) return
  await tick([wire], 'cut', false)
  await tick([wire], last, true)
}

const print = () => window.print()
</script>

<template>
  <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
  <p v-else-if="!make || !build" class="empty">Listing what the loom takes…</p>
  <div v-else class="make">
    <header>
      <h1>Make</h1>
      <span class="quiet">
        {{ make.workshop.wires.length }} wires, {{ fixed(make.workshop.metres, 0) }} m of {{ make.workshop.kinds }} kinds<template v-if="make.workshop.kinds > make.workshop.kinds_in_one_colour">
          ({{ make.workshop.kinds_in_one_colour }} if all were of one colour with printed labels)</template>
      </span>
      <label class="no-print">
        Stage
        <select v-model="stage" class="field">
          <option :value="undefined">all</option>
          <option v-for="number in make.workshop.stages" :key="number" :value="number">{{ number }}</option>
        </select>
      </label>
    </header>
    <nav class="list-tabs no-print" aria-label="Lists">
      <RouterLink
        v-for="row in LISTS"
        :key="row.name"
        :to="{ name: 'make', params: { id, list: row.name } }"
        :class="{ here: row === list }"
        :aria-current="row === list ? 'page' : undefined"
      >
        {{ row.title }}
      </RouterLink>
      <span class="files">
        <template v-if="list.file">
          <a :href="file(list.file, 'csv')">CSV</a>
          <a :href="file(list.file, 'xlsx')">XLSX</a>
        </template>
        <template v-else>
          <a :href="file('board', 'svg')">SVG</a>
          <a v-for="paper in ['A4', 'A3', 'letter']" :key="paper" :href="`${file('board', 'pdf')}?paper=${paper}`">full size on {{ paper }}</a>
        </template>
        <a v-if="list.name === ''" :href="file('labels', 'csv')">labels for a printer</a>
        <button class="plain" @click="print">Print</button>
      </span>
    </nav>
    <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
    <ul v-if="make.workshop.changed.length" class="changed refusal" aria-label="Cut and changed">
      <li v-for="row in make.workshop.changed" :key="row.wire">
        {{ row.says }}
        <template v-if="row.use_for.length"> What was cut would do for {{ row.use_for.join(', ') }}.</template>
        <button class="plain no-print" @click="tick([row.wire], 'cut', false)">Not cut any more</button>
      </li>
    </ul>
    <MakeWires v-if="list.name === ''" :build="build" :make="make" @tick="tick" @built="built" />
    <MakeCuts v-else-if="list.name === 'cuts'" :build="build" :make="make" @tick="tick" />
    <MakeBoard v-else-if="list.name === 'board'" :build="build" :make="make" />
    <MakePlugs v-else-if="list.name === 'plugs'" :make="make" />
    <MakeSplices v-else-if="list.name === 'splices'" :make="make" />
    <MakeShopping v-else-if="list.name === 'shopping'" :build="build" :make="make" />
    <MakeOld v-else-if="list.name === 'old'" :build="build" :make="make" />
    <div v-else class="sheet list-scrolls">
      <table>
        <caption class="visually-hidden">What each fuse is</caption>
        <thead>
          <tr>
            <th scope="col">Panel</th>
            <th scope="col">Way</th>
            <th scope="col" class="figure">A</th>
            <th scope="col">Colour</th>
            <th scope="col">Feeds</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="way in make.workshop.chart" :key="`${way.panel} ${way.way}`" :class="{ quiet: !way.fuse }">
            <td>{{ way.panel }}</td>
            <td>{{ way.way }}</td>
            <td class="figure">{{ way.rating_a ?? '' }}</td>
            <td>{{ way.colour }}</td>
            <td>{{ way.feeds }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="!make.workshop.chart.length" class="empty">No panel yet: add one in Circuits, Add a function.</p>
    </div>
  </div>
</template>

<style scoped>
.make {
  display: flex;
  height: 100%;
  flex-direction: column;
  gap: 8px;
  padding: 10px 14px;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}

header label {
  margin-left: auto;
}

.files {
  display: flex;
  gap: 12px;
  margin-left: auto;
}

.files a {
  color: var(--copper);
  font-size: 14px;
  text-decoration: underline;
}

.changed {
  margin: 0;
  list-style: none;
}

@media print {
  .make {
    height: auto;
  }
}
</style>
