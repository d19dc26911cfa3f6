<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answered, type BuildView, client, type Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId, useBuilds, useComparison, useHistory } from '@/api/queries'
import SteadyField from '@/components/SteadyField.vue'
import { inWords } from '@/changeWords'
import { fixed, moment } from '@/format'

/** Every revision, what two of them differ in, and the way back to one. */
const props = defineProps<{ build: BuildView }>()
const id = useBuildId()
const queries = useQueryClient()
const { data: history, error } = useHistory(id)
const { back } = useEdits(id)

const before = ref<number>()
const after = computed(() => props.build.revision)
const other = ref<number>()
const { data: builds } = useBuilds()
const others = computed(() => builds.value?.filter((row) => row.id !== id.value) ?? [])
const { data: comparison, error: refused, isFetching } = useComparison(id, before, after, other)

const begun: Schemas['RevisionView'] = { revision: 0, label: 'as it was begun or opened', name: '', kind: 'do', at: props.build.changed }
const rows = computed(() => (history.value ? [...history.value, begun] : []))
const chosen = computed(() => (other.value ? undefined : rows.value.find((row) => row.revision === before.value)))
const against = computed(() => others.value.find((row) => row.id === other.value))
const title = computed(() => {
  if (against.value) return `What this build has otherwise than ${against.value.name}`
  return chosen.value ? `Since revision ${chosen.value.revision}${chosen.value.name ? `, ${chosen.value.name}` : ''}` : 'Compare'
})
const words = computed(() => (comparison.value ? inWords(comparison.value.changes) : []))
const figures = computed(() => {
  const found = comparison.value?.figures
  if (!found) return []
  const moved = (title: string, list: Schemas['CompareView']['figures']['wires']) => ({
    title,
    rows: list.map((row) => `${row.name} ${row.before} → ${row.after}`),
  })
  return [
    moved('Wires', found.wires),
    moved('Fuses', found.fuses),
    moved('Lost on the way', found.drops),
    { title: 'Findings gone', rows: found.findings_gone },
    { title: 'Findings new', rows: found.findings_new },
  ].filter((group) => group.rows.length)
})

const said = (row: Schemas['RevisionView']) => `${row.kind === 'do' ? '' : `${row.kind}: `}${row.label}`

async function call(row: Schemas['RevisionView'], name: string): Promise<void> {
  const path = { build_id: id.value, revision: row.revision }
  await answered(client.POST('/api/builds/{build_id}/history/{revision}/name', { params: { path }, body: { name } }))
  await queries.invalidateQueries({ queryKey: ['history', id.value] })
}

async function goBack(): Promise<void> {
  if (before.value !== undefined && (await back(before.value))) before.value = undefined
}
</script>

<template>
  <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
  <div v-else class="columns">
    <section class="sheet scrolls" aria-label="Revisions">
      <table>
        <thead>
          <tr>
            <th scope="col" class="figure">No.</th>
            <th scope="col">What was done</th>
            <th scope="col">Called</th>
            <th scope="col">When</th>
            <th scope="col">Compare with now</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.revision" :class="{ here: row.revision === before }">
            <td class="figure">{{ row.revision }}</td>
            <td>{{ said(row) }}</td>
            <td>
              <SteadyField v-if="row.revision" class="field called" :aria-label="`Name of revision ${row.revision}`" :value="row.name" maxlength="80" @put="(text) => call(row, text)" />
            </td>
            <td class="quiet">{{ row.revision ? moment(row.at) : '' }}</td>
            <td>
              <input v-model="before" type="radio" name="before" :value="row.revision" :disabled="row.revision === build.revision" :aria-label="`Compare revision ${row.revision} with now`" />
            </td>
          </tr>
        </tbody>
      </table>
    </section>
    <section class="sheet told" aria-label="Comparison">
      <label v-if="others.length" class="other">
        Compare with another build
        <select v-model="other" class="field">
          <option :value="undefined">none</option>
          <option v-for="row in others" :key="row.id" :value="row.id">{{ row.name }}</option>
        </select>
      </label>
      <h2>{{ title }}</h2>
      <p v-if="!chosen && !against" class="quiet">Choose a revision to see what has changed since, and to go back to it.</p>
      <p v-else-if="refused" class="refusal" role="alert">{{ refused.message }}</p>
      <p v-else-if="isFetching || !comparison" class="quiet">Sizing both…</p>
      <template v-else>
        <template v-if="chosen">
          <AButton size="small" @click="goBack">Go back to revision {{ chosen.revision }}</AButton>
          <p class="quiet">This is an edit of its own: nothing is lost, and it can be undone.</p>
        </template>
        <p v-if="!words.length">Nothing is different.</p>
        <template v-for="group in words" :key="group.said">
          <h3>{{ group.said }}</h3>
          <ul>
            <li v-for="line in group.rows" :key="line">{{ line }}</li>
          </ul>
        </template>
        <p>
          Copper {{ fixed(comparison.figures.copper_kg_before, 2) }} → {{ fixed(comparison.figures.copper_kg_after, 2) }} kg, sizes of wire
          {{ comparison.figures.reels_before }} → {{ comparison.figures.reels_after }}
        </p>
        <template v-for="group in figures" :key="group.title">
          <h3>{{ group.title }}</h3>
          <ul>
            <li v-for="line in group.rows" :key="line">{{ line }}</li>
          </ul>
        </template>
      </template>
    </section>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  gap: 12px;
  align-items: start;
  grid-template-columns: minmax(0, 1fr) 360px;
}

.scrolls {
  max-height: calc(100vh - 190px);
  overflow: auto;
}

.told {
  padding: 8px 14px;
}

thead th {
  position: sticky;
  top: 0;
  background: var(--sheet);
}

.other {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
  margin-bottom: 8px;
}

.called {
  width: 130px;
}

tr.here td {
  background: var(--copper-wash);
}

ul {
  margin: 2px 0 8px;
  padding-left: 18px;
}

@media (max-width: 1000px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
