<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { answered, client, type Operation, Refused, type Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuild, useBuildId, useStock } from '@/api/queries'
import StockTabs from '@/components/StockTabs.vue'

/** A table from a spreadsheet into the stock list: headings mapped, cells judged, then all or nothing. */
const SHOWN_ROWS = 60

const id = useBuildId()
const router = useRouter()
const { data: build } = useBuild(id)
const { data: stock } = useStock(id)
const { edit } = useEdits(id)

const chooser = ref<HTMLInputElement>()
const table = ref<Schemas['TableView'] | null>(null)
const columns = ref<(string | null)[]>([])
const newPlaces = ref(true)
const byName = ref(true)
const problems = ref<Schemas['CellProblemView'][]>([])
const refused = ref<string | null>(null)
const busy = ref('')

/** What a row is, chosen here because its own words say nothing that the catalogue knows. */
const whats = ref<Record<number, string>>({})
const kinds = computed(() => Object.values(stock.value?.kinds ?? {}).flat())

const typed = computed(() =>
  (table.value?.rows ?? []).map((row, number) => ({
    part: null,
    cells: {
      ...Object.fromEntries(
        columns.value.flatMap((column, at) => (column ? [[column, row[at] ?? '']] : [])),
      ),
      ...(whats.value[number] ? { what: whats.value[number]! } : {}),
    },
  })),
)
const problemAt = computed(
  () => new Map(problems.value.map((row) => [`${row.row}:${row.column}`, row.message])),
)
const badRows = computed(() => [...new Set(problems.value.map((row) => row.row))])
/** Bad rows first, so that none hides below; then the others in their order. */
const shown = computed(() => {
  const all = (table.value?.rows ?? []).map((cells, number) => ({ number, cells }))
  const bad = new Set(badRows.value)
  return [...all.filter((row) => bad.has(row.number)), ...all.filter((row) => !bad.has(row.number))].slice(
    0,
    SHOWN_ROWS,
  )
})
const named = computed(() => columns.value.includes('name'))
/** Rows whose kind is asked for, once asked, stay askable. */
const unknownWhat = computed(
  () =>
    new Set([
      ...problems.value.filter((row) => row.column === 'what').map((row) => row.row),
      ...Object.keys(whats.value).map(Number),
    ]),
)
/** Problems of cells that no column of the file shows. */
const unseen = computed(() =>
  problems.value.filter((row) => row.column !== 'what' && !columns.value.includes(row.column)),
)

let asked = 0
watch([typed, newPlaces, byName], () => void check(), { deep: true })

async function choose(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  busy.value = 'Reading the file…'
  refused.value = null
  table.value = null
  problems.value = []
  whats.value = {}
  const form = new FormData()
  form.append('file', file)
  try {
    table.value = await answered(
      client.POST('/api/tables', { body: form as never, bodySerializer: (body: unknown) => body as FormData }),
    )
    columns.value = [...table.value.columns]
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = problem.message
  } finally {
    busy.value = ''
    input.value = ''
  }
}

async function check(): Promise<void> {
  const mine = ++asked
  problems.value = []
  if (!table.value || !named.value) return
  busy.value = 'Looking at every cell…'
  try {
    const found = await answered(
      client.POST('/api/builds/{build_id}/stock/check', {
        params: { path: { build_id: id.value } },
        body: { rows: typed.value, new_places: newPlaces.value, by_name: byName.value },
      }),
    )
    if (mine === asked) problems.value = found
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    if (mine === asked) refused.value = problem.message
  } finally {
    if (mine === asked) busy.value = ''
  }
}

/** One column of the list is fed by one heading only. */
function map(at: number, column: string): void {
  columns.value = columns.value.map((other, index) =>
    index === at ? column || null : other === column ? null : other,
  )
}

async function bringIn(): Promise<void> {
  busy.value = 'Importing…'
  const operation: Operation = {
    op: 'set_cells',
    rows: typed.value,
    new_places: newPlaces.value,
    by_name: byName.value,
  }
  const label = `Import ${typed.value.length} rows from ${table.value!.name}`.slice(0, 200)
  const saved = await edit(label, [operation])
  busy.value = ''
  if (saved) await router.push({ name: 'stock', params: { id: id.value } })
}
</script>

<template>
  <section v-if="build && stock" class="import">
    <StockTabs />
    <div class="body">
      <header>
        <h1>Import into the stock list</h1>
        <RouterLink :to="{ name: 'stock', params: { id } }">Back to the list</RouterLink>
      </header>
      <p class="quiet">
        A CSV or XLSX file with one thing a row and headings on top. Nothing is saved until every cell
        can be read; then all of it, as one step that can be undone.
      </p>
      <p class="actions">
        <input
          ref="chooser"
          class="visually-hidden"
          type="file"
          accept=".csv,.tsv,.txt,.xlsx"
          aria-label="Table"
          tabindex="-1"
          @change="choose"
        />
        <AButton type="primary" @click="chooser?.click()">
          {{ table ? 'Choose another file…' : 'Choose a file…' }}
        </AButton>
        <span role="status" class="quiet">{{ busy }}</span>
      </p>
      <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
      <template v-if="table">
        <p>
          <b>{{ table.name }}</b>: {{ table.rows.length }} rows, {{ table.headings.length }} columns.
          <span v-for="note in table.notes" :key="note" class="note">{{ note }}</span>
        </p>
        <p class="options">
          <label><input v-model="byName" type="checkbox" /> a row whose name is in the list changes that row</label>
          <label><input v-model="newPlaces" type="checkbox" /> add places that are not there yet</label>
        </p>
        <p v-if="!named" class="refusal" role="alert">Choose which heading is the name.</p>
        <p v-else-if="problems.length" class="refusal" role="alert">
          {{ problems.length }} {{ problems.length === 1 ? 'cell' : 'cells' }} in {{ badRows.length }}
          {{ badRows.length === 1 ? 'row' : 'rows' }} cannot be read. Mend the file, or leave a column
          out. Nothing was imported.
        </p>
        <p v-for="row in unseen.slice(0, 8)" :key="`${row.row}:${row.column}`" class="unseen">
          Row {{ row.row + 1 }}: {{ row.message }}.
        </p>
        <div class="table">
          <table>
            <caption class="visually-hidden">
              Preview of {{ table.name }}
            </caption>
            <thead>
              <tr>
                <th scope="col">Row</th>
                <th v-for="(heading, at) in table.headings" :key="at" scope="col">
                  <span>{{ heading || `column ${at + 1}` }}</span>
                  <select
                    :value="columns[at] ?? ''"
                    :aria-label="`${heading} means`"
                    @change="map(at, ($event.target as HTMLSelectElement).value)"
                  >
                    <option value="">leave out</option>
                    <option v-for="column in stock.columns" :key="column.key" :value="column.key">
                      {{ column.title }}
                    </option>
                  </select>
                </th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in shown" :key="row.number">
                <td class="figure quiet">{{ row.number + 1 }}</td>
                <td
                  v-for="(cell, at) in row.cells"
                  :key="at"
                  :class="{
                    bad:
                      problemAt.has(`${row.number}:${columns[at]}`) ||
                      (columns[at] === 'name' && problemAt.has(`${row.number}:what`)),
                    quiet: !columns[at],
                  }"
                >
                  {{ cell }}
                  <select
                    v-if="columns[at] === 'name' && unknownWhat.has(row.number)"
                    v-model="whats[row.number]"
                    :aria-label="`What ${cell} is`"
                  >
                    <option :value="undefined" disabled>what is it?</option>
                    <option v-for="kind in kinds" :key="kind">{{ kind }}</option>
                  </select>
                  <small v-if="problemAt.has(`${row.number}:${columns[at]}`)">
                    ▲ {{ problemAt.get(`${row.number}:${columns[at]}`) }}
                  </small>
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <p v-if="table.rows.length > SHOWN_ROWS" class="quiet">
          The first {{ SHOWN_ROWS }} rows are shown, bad ones first; all are read.
        </p>
        <AButton
          type="primary"
          :disabled="!named || problems.length > 0 || busy !== ''"
          @click="bringIn"
        >
          Import {{ table.rows.length }} rows
        </AButton>
      </template>
    </div>
  </section>
</template>

<style scoped>
td select {
  display: block;
  margin: 2px 0;
}

.import {
  display: flex;
  height: 100%;
  flex-direction: column;
}

.body {
  overflow: auto;
  padding: 12px 16px;
}

header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}

.actions,
.options {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
}

.note {
  margin-left: 8px;
  color: var(--ochre);
}

.note::before {
  content: '▲ ';
}

.table {
  overflow: auto;
  max-height: 430px;
  margin: 8px 0;
  border: 1px solid var(--rule);
  background: var(--sheet);
}

table {
  width: max-content;
  min-width: 100%;
}

th {
  position: sticky;
  top: 0;
  background: var(--card);
}

th span {
  display: block;
}

select {
  height: 25px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
}

td {
  max-width: 260px;
  overflow-wrap: anywhere;
}

.bad {
  background: color-mix(in srgb, var(--brick) 14%, var(--sheet));
}

.bad small {
  display: block;
  color: var(--brick);
  font-size: 12.5px;
}

.unseen {
  margin: 2px 0;
  color: var(--brick);
}
</style>
