<script setup lang="ts">
import { computed, ref } from 'vue'

import { refusal, useEdits } from '@/api/edits'
import { useBuild, useBuildId, useChoices, usePhotos, useResults, useStock } from '@/api/queries'
import NewLoad from '@/components/NewLoad.vue'
import RowDetail from '@/components/RowDetail.vue'
import StockGrid, { type TypedRow } from '@/components/StockGrid.vue'
import StockTabs from '@/components/StockTabs.vue'
import { fixed } from '@/format'
import { useLive } from '@/stores/live'
import { type Grouping, gridColumns, gridGroups } from '@/stock'

const id = useBuildId()
const { data: build } = useBuild(id)
const { data: stock } = useStock(id)
const { data: results } = useResults(id)
const { data: choices } = useChoices(id)
const bench = useLive()
/** What each load draws now, in A, by its id. */
const now = computed(() => bench.isLive && bench.calm ? new Map(bench.session?.loads.map((load, n) => [load, bench.calm!.load_a[n]])) : undefined)
const { data: photos } = usePhotos(id)
const { edit } = useEdits(id)

const grouping = ref<Grouping>('function')
const wanted = ref('')
const sorted = ref<{ key: string; up: boolean } | null>(null)
const allColumns = ref(false)
const opened = ref<string | null>(null)

const rows = computed(() => stock.value?.rows ?? [])
const rowOf = computed(() => new Map(rows.value.map((row) => [row.part, row])))
const live = computed(() => bench.isLive)
const places = computed(() => build.value?.places.map((place) => place.name) ?? [])
const columns = computed(() =>
  stock.value ? gridColumns(stock.value, places.value, choices.value, allColumns.value) : [],
)
const groups = computed(() => gridGroups(rows.value, grouping.value, wanted.value, sorted.value))
const loads = computed(() => rows.value.filter((row) => row.group === 'loads'))
const toDecide = computed(() => rows.value.filter((row) => row.cells.state === 'to decide').length)
const notWired = computed(() => loads.value.filter((row) => row.wiring === 'not wired'))
const pictured = computed(() => new Set(photos.value?.map((photo) => photo.identity)))

function sort(key: string): void {
  if (sorted.value?.key !== key) sorted.value = { key, up: true }
  else sorted.value = sorted.value.up ? { key, up: false } : null
}

/** Answers null when saved, or why not. */
async function save(label: string, typed: TypedRow[], done: () => void): Promise<string | null> {
  const words = label.slice(0, 200) || 'Edit'
  const saved = await edit(words, [{ op: 'set_cells', rows: typed }], done)
  return saved ? null : (refusal.value ?? 'Not saved yet: look at the message above.')
}

function wireSize(part: string): string {
  return results.value?.wires[results.value.loads[part]?.wire ?? '']?.size ?? ''
}

function fuse(part: string): string {
  const named = results.value?.loads[part]?.fuse
  return named ? `${results.value?.fuses[named]?.rating_a ?? '–'} A` : '–'
}
</script>

<template>
  <section v-if="build" class="stock">
    <StockTabs />
    <NewLoad :build="build" />
    <div class="tools no-print">
      <b class="count">
        {{ loads.length }} loads
        <button v-if="toDecide" type="button" @click="wanted = wanted === 'to decide' ? '' : 'to decide'">
          {{ toDecide }} to decide
        </button>
        <span v-else class="quiet">all decided</span>
      </b>
      <label>
        Group by
        <select v-model="grouping">
          <option value="function">function</option>
          <option value="place">place</option>
          <option value="state">state</option>
          <option value="none">nothing</option>
        </select>
      </label>
      <input v-model="wanted" type="search" placeholder="Filter" aria-label="Filter rows" />
      <label class="tick"><input v-model="allColumns" type="checkbox" /> all figures</label>
      <span class="gap"></span>
      <RouterLink v-if="notWired.length" class="act" :to="{ name: 'draft', params: { id } }">
        Draft the wiring of {{ notWired.length }}
      </RouterLink>
      <RouterLink :to="{ name: 'import', params: { id } }">Import…</RouterLink>
      <a :href="`/api/builds/${id}/stock.csv`" download>CSV</a>
      <a :href="`/api/builds/${id}/stock.xlsx`" download>XLSX</a>
    </div>
    <div v-if="stock" class="middle">
      <StockGrid
        :label="`Stock list of ${build.name}`"
        :columns="columns"
        :groups="groups"
        :sorted="sorted"
        :stamp="[results, now, photos]"
        :extra="live ? 4 : 3"
        :extra-width="live ? 232 : 166"
        :save="save"
        @sort="sort"
      >
        <template #head>
          <th scope="col" class="figure after">Fuse</th>
          <th scope="col" class="figure after">Wire</th>
          <th v-if="live" scope="col" class="figure after">Now, A</th>
          <th scope="col" class="after"><span class="visually-hidden">More</span></th>
        </template>
        <template #row="{ id: part }">
          <td class="figure">
            <RouterLink
              v-if="rowOf.get(part)?.circuit"
              :to="{ name: 'circuits', params: { id, circuit: rowOf.get(part)!.circuit! } }"
              title="Why this fuse and this wire"
            >
              {{ fuse(part) }}
            </RouterLink>
            <span v-else-if="rowOf.get(part)?.wiring" class="quiet">not wired</span>
          </td>
          <td class="figure">{{ wireSize(part) }}</td>
          <td v-if="live" class="figure live">{{ now?.has(part) ? fixed(now.get(part), 2) : '' }}</td>
          <td class="more">
            <button
              v-if="part"
              type="button"
              :aria-label="`More of ${rowOf.get(part)?.cells.name}`"
              :title="rowOf.get(part)?.cells.note || 'Note, photos, wiring, remove'"
              @click="opened = part"
            >
              {{ pictured.has(part) ? '▣' : rowOf.get(part)?.cells.note ? '✎' : '⋯' }}
            </button>
          </td>
        </template>
      </StockGrid>
      <RowDetail v-if="opened && rowOf.get(opened)" :row="rowOf.get(opened)!" @close="opened = null" />
    </div>
    <p v-if="stock && loads.length === 0" class="empty">
      No loads yet. Type the first one above: the horn is a good start.
    </p>
  </section>
</template>

<style scoped>
.act {
  padding: 1px 9px;
  border-radius: 3px;
  background: var(--copper);
  color: var(--sheet);
  font-family: var(--heading);
  font-weight: 600;
  text-decoration: none;
}

.stock {
  display: flex;
  height: 100%;
  flex-direction: column;
}

.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  padding: 5px 12px;
  border-bottom: 1px solid var(--rule);
}

.count {
  font-family: var(--heading);
  font-size: 17px;
}

.count button {
  padding: 0 6px;
  border: 1px solid var(--ochre);
  border-radius: 3px;
  background: none;
  color: var(--ochre);
  cursor: pointer;
  font: inherit;
}

.tools select,
.tools input[type='search'] {
  height: 25px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.tools input[type='search'] {
  width: 150px;
}

.gap {
  flex: 1;
}

.middle {
  display: flex;
  min-height: 240px;
  flex: 1;
}

.after {
  width: 66px;
  padding: 4px 6px;
}

.after:last-child {
  width: 34px;
}

.more {
  padding: 0 2px;
  text-align: center;
}

.more button {
  width: 26px;
  border: 0;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font-size: 15px;
}

</style>
