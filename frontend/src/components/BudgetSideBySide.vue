<script setup lang="ts">
import { computed } from 'vue'

import { current } from '@/format'
import type { ScenarioRow } from '@/scenarios'

/** Scenarios side by side: amps of each circuit and of each feed. */
const props = defineProps<{ rows: ScenarioRow[] }>()

type Sums = ScenarioRow['circuits']

function table(of: (row: ScenarioRow) => Sums) {
  const names = new Map(props.rows.flatMap((row) => of(row).map((sum) => [sum.id, sum.name] as const)))
  const amps = (row: ScenarioRow, id: string) => of(row).find((sum) => sum.id === id)?.amps
  return [...names]
    .map(([id, name]) => ({ id, name, amps: props.rows.map((row) => amps(row, id)) }))
    .sort((one, other) => Math.max(...other.amps.map((a) => a ?? 0)) - Math.max(...one.amps.map((a) => a ?? 0)))
}

const groups = computed(() => [
  { title: 'Circuits', lines: table((row) => row.circuits) },
  { title: 'Feeds', lines: table((row) => row.feeds) },
])
</script>

<template>
  <section class="sheet" aria-label="Side by side">
    <h2>Side by side</h2>
    <div class="scrolls">
      <table>
        <thead>
          <tr>
            <th scope="col">Mean current</th>
            <th v-for="row in rows" :key="row.id" scope="col" class="figure">{{ row.name }}</th>
          </tr>
        </thead>
        <tbody>
          <tr class="sum">
            <th scope="row">The whole car</th>
            <td v-for="row in rows" :key="row.id" class="figure">{{ current(row.draws_a) }}</td>
          </tr>
          <template v-for="group in groups" :key="group.title">
            <tr>
              <th scope="rowgroup" :colspan="rows.length + 1" class="head">{{ group.title }}</th>
            </tr>
            <tr v-for="line in group.lines" :key="line.id">
              <th scope="row">{{ line.name }}</th>
              <td v-for="(amps, n) in line.amps" :key="n" class="figure">{{ amps === undefined ? '–' : current(amps) }}</td>
            </tr>
          </template>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
section {
  padding: 8px 12px 10px;
}

.scrolls {
  max-height: 420px;
  overflow: auto;
}

thead th {
  position: sticky;
  top: 0;
  background: var(--sheet);
}

tbody th {
  color: var(--ink);
  font-family: var(--text);
  font-weight: 400;
}

tbody th.head {
  padding-top: 10px;
  color: var(--quiet);
  font-family: var(--heading);
  font-weight: 600;
}

.sum th,
.sum td {
  font-weight: 600;
}
</style>
