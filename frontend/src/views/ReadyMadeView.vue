<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Operation, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useAudit, useBuild, useBuildId } from '@/api/queries'
import { byId } from '@/byId'
import EditCell from '@/components/EditCell.vue'
import EntryDetail from '@/components/EntryDetail.vue'
import StockTabs from '@/components/StockTabs.vue'
import VerdictMark from '@/components/VerdictMark.vue'
import { fixed } from '@/format'
import { fromClipboard } from '@/grid'
import { remove } from '@/looms'

type Row = Schemas['HarnessCircuitView']

const SIGN: Record<string, string> = { served: 'fine', spare: 'note', 'too thin': 'stop', 'too short': 'stop' }
const COLUMNS = ['name', 'size', 'length', 'fuse', 'serves']

const id = useBuildId()
const { data: build } = useBuild(id)
const { data: audit } = useAudit(id)
const { edit } = useEdits(id)
const fresh = ref('')
const opened = ref<string | null>(null)

const rows = computed(() => build.value?.harness_circuits ?? [])
const places = computed(
  () => build.value?.places.map((place) => ({ value: place.id, label: place.name })) ?? [],
)
const loads = computed(
  () => build.value?.parts.filter((part) => part.kind === 'load').map((part) => part.name) ?? [],
)
const counts = computed(() => {
  const verdicts = Object.values(audit.value?.harness_circuits ?? {}).map((row) => row.verdict)
  const of = (word: string) => verdicts.filter((verdict) => verdict === word).length
  return `${of('served')} served, ${of('spare')} spare, ${of('too thin')} too thin, ${of('too short')} too short, ${audit.value?.missing.length ?? 0} loads missing`
})
const missing = computed(() =>
  (audit.value?.missing ?? []).map((load) => nameOf(load)).filter(Boolean),
)

function nameOf(part: string | null | undefined): string {
  return byId(build.value?.parts).get(part)?.name ?? ''
}

function cellsOf(typed: string[]): Record<string, string> {
  const pairs = COLUMNS.map((column, at) => [column, (typed[at] ?? '').trim()])
  return Object.fromEntries(pairs.filter(([, text]) => text))
}

async function addRow(): Promise<void> {
  const name = fresh.value.trim()
  if (!name) return
  await edit(`Harness: ${name}`, [{ op: 'set_harness', cells: { name } }], () => (fresh.value = ''))
}

/** Many rows from a spreadsheet: name, size, length, fuse. */
function paste(event: ClipboardEvent): void {
  const typed = fromClipboard(event.clipboardData?.getData('text/plain') ?? '')
  if (typed.length < 2 && (typed[0]?.length ?? 0) < 2) return
  event.preventDefault()
  const operations: Operation[] = typed
    .filter((row) => row[0]?.trim())
    .map((row) => ({ op: 'set_harness', cells: cellsOf(row) }))
  if (operations.length) void edit(`Paste ${operations.length} circuits`, operations)
}

function set(row: Row, column: string) {
  return (text: string, done: () => void) =>
    edit(`Harness: ${row.name}`, [{ op: 'set_harness', harness: row.id, cells: { [column]: text } }], done)
}

function setPanel(place: string, done: () => void): Promise<boolean> {
  const fields = { harness_from: place || null }
  return edit('Place of the harness’s panel', [{ op: 'change', collection: 'build', id: 'build', fields }], done)
}

function drop(row: Row): void {
  void edit(`Remove ${row.name}`, [remove('harness_circuits', row.id)])
}
</script>

<template>
  <section v-if="build" class="loom">
    <StockTabs />
    <div class="tools">
      <form @submit.prevent="addRow">
        <label>
          <span class="visually-hidden">Circuit of the harness</span>
          <input v-model="fresh" maxlength="80" placeholder="Circuit, or paste name, size, length, fuse" @paste="paste" />
        </label>
        <AButton html-type="submit" size="small" type="primary">Add the circuit</AButton>
      </form>
      <span class="panel-place">
        Its panel sits at
        <EditCell
          label="place of the harness’s panel"
          :text="build.places.find((place) => place.id === build!.harness_from)?.name ?? 'not said yet'"
          :value="build.harness_from ?? ''"
          :options="[{ value: '', label: 'not said yet' }, ...places]"
          :save="setPanel"
        />
      </span>
      <b v-if="rows.length">{{ counts }}</b>
    </div>
    <div class="middle">
    <div class="list">
      <table v-if="rows.length" class="broad">
        <caption class="visually-hidden">
          Circuits of the ready-made harness
        </caption>
        <thead>
          <tr>
            <th scope="col">Circuit</th>
            <th scope="col">Size</th>
            <th scope="col" class="figure">Length, m</th>
            <th scope="col" class="figure">Fuse, A</th>
            <th scope="col">Serves</th>
            <th scope="col" class="figure reckoned">Way, m</th>
            <th scope="col" class="figure reckoned">Takes, A</th>
            <th scope="col" class="figure reckoned">Carries, A</th>
            <th scope="col" class="figure reckoned">Drop, %</th>
            <th scope="col">Verdict</th>
            <th scope="col"><span class="visually-hidden">Remove</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.id">
            <td><EditCell label="circuit" :text="row.name" :save="set(row, 'name')" /></td>
            <td><EditCell label="size" :text="row.size" :save="set(row, 'size')" /></td>
            <td class="figure"><EditCell label="length" :text="String(row.length_m)" :save="set(row, 'length')" /></td>
            <td class="figure"><EditCell label="fuse" :text="row.fuse_a === null ? '' : String(row.fuse_a)" :save="set(row, 'fuse')" /></td>
            <td>
              <EditCell
                label="serves"
                :text="nameOf(row.serves)"
                :placeholder="nameOf(audit?.harness_circuits[row.id]?.load)"
                :suggest="loads"
                :save="set(row, 'serves')"
              />
            </td>
            <td class="figure reckoned">{{ fixed(audit?.harness_circuits[row.id]?.needs_m, 2) }}</td>
            <td class="figure reckoned">{{ fixed(audit?.harness_circuits[row.id]?.amps, 1) }}</td>
            <td class="figure reckoned">{{ fixed(audit?.harness_circuits[row.id]?.carries_a, 1) }}</td>
            <td class="figure reckoned">{{ fixed(audit?.harness_circuits[row.id]?.drop_percent, 1) }}</td>
            <td>
              <span class="verdict">
                <VerdictMark :verdict="SIGN[audit?.harness_circuits[row.id]?.verdict ?? ''] ?? 'note'" />
                {{ audit?.harness_circuits[row.id]?.verdict }}
              </span>
              <small>{{ audit?.harness_circuits[row.id]?.text }}</small>
            </td>
            <td class="acts">
              <button type="button" :aria-label="`Note and photos of ${row.name}`" :title="row.note || 'Note and photos'" @click="opened = row.id">
                {{ row.note ? '✎' : '⋯' }}
              </button>
              <button type="button" :aria-label="`Remove ${row.name}`" @click="drop(row)">✕</button>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else class="empty">
        No ready-made harness. List what it brings, circuit by circuit with size and length, and it is
        held against the stock list: what it serves, what is missing, what stays spare.
      </p>
      <p v-if="missing.length" class="missing">
        <VerdictMark verdict="look" /> No circuit of the harness serves: {{ missing.join(', ') }}.
      </p>
    </div>
    <EntryDetail
      v-for="row in rows.filter((one) => one.id === opened)"
      :key="row.id"
      collection="harness_circuits"
      :identity="row.id"
      :name="row.name"
      :text="row.note"
      @close="opened = null"
    />
    </div>
  </section>
</template>

<style scoped src="../loom.css"></style>
