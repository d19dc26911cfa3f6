<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Asked, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useAudit, useBuild, useBuildId } from '@/api/queries'
import EditCell from '@/components/EditCell.vue'
import EntryDetail from '@/components/EntryDetail.vue'
import StockTabs from '@/components/StockTabs.vue'
import VerdictMark from '@/components/VerdictMark.vue'
import { fromClipboard } from '@/grid'
import { add, change, freshId, remove, worst } from '@/looms'

type Pair = Schemas['PinPairView']

const COLLECTION = 'pin_pairs'
const FIELDS = ['old_plug', 'old_pin', 'old_colour', 'new_plug', 'new_pin', 'new_colour'] as const
const TITLES = ['plug', 'pin', 'colour', 'plug', 'pin', 'colour']

const id = useBuildId()
const { data: build } = useBuild(id)
const { data: audit } = useAudit(id)
const { edit } = useEdits(id)
const fresh = ref('')
const opened = ref<string | null>(null)

const pairs = computed(() => build.value?.pin_pairs ?? [])
const proved = computed(() => pairs.value.filter((row) => row.proved).length)

function added(cells: string[], taken: { id: string }[]): Asked<'add'> {
  const [name = '', ...rest] = cells
  const fields = Object.fromEntries(FIELDS.map((field, at) => [field, (rest[at] ?? '').trim()]))
  return add(COLLECTION, { id: freshId(name, taken), function: name.trim(), ...fields })
}

async function addPair(): Promise<void> {
  if (!fresh.value.trim()) return
  await edit(`Map ${fresh.value.trim()}`, [added([fresh.value], pairs.value)], () => (fresh.value = ''))
}

/** Many rows from a spreadsheet: function, old plug, pin, colour, new plug, pin, colour. */
function paste(event: ClipboardEvent): void {
  const rows = fromClipboard(event.clipboardData?.getData('text/plain') ?? '')
  if (rows.length < 2 && (rows[0]?.length ?? 0) < 2) return
  event.preventDefault()
  const taken: { id: string }[] = [...pairs.value]
  const operations = rows
    .filter((row) => row[0]?.trim())
    .map((row) => {
      const operation = added(row, taken)
      taken.push({ id: operation.value.id as string })
      return operation
    })
  if (operations.length) void edit(`Paste ${operations.length} functions`, operations)
}

function set(row: Pair, field: string) {
  return (value: string, done: () => void) =>
    edit(`Pin of ${row.function}`, [change(COLLECTION, row.id, { [field]: value.trim() })], done)
}

function tick(row: Pair): void {
  const words = row.proved ? 'No longer proved' : 'Proved by continuity'
  void edit(`${words}: ${row.function}`, [change(COLLECTION, row.id, { proved: !row.proved })])
}

function drop(row: Pair): void {
  void edit(`Remove ${row.function}`, [remove(COLLECTION, row.id)])
}
</script>

<template>
  <section v-if="build" class="loom">
    <StockTabs />
    <div class="tools">
      <form @submit.prevent="addPair">
        <label>
          <span class="visually-hidden">Function</span>
          <input v-model="fresh" maxlength="80" placeholder="Function, or paste rows from a spreadsheet" @paste="paste" />
        </label>
        <AButton html-type="submit" size="small" type="primary">Add the function</AButton>
      </form>
      <b>{{ pairs.length }} functions, {{ proved }} proved by continuity</b>
    </div>
    <p class="caution">
      ⚠ Battery off for a continuity test. Prove every pair before anything is cut or covered; never
      probe airbag wiring.
    </p>
    <div class="middle">
    <div class="list">
      <table v-if="pairs.length">
        <caption class="visually-hidden">
          Two harnesses mapped by function
        </caption>
        <thead>
          <tr>
            <th rowspan="2" scope="col">Function</th>
            <th colspan="3" scope="colgroup">Old harness</th>
            <th colspan="3" scope="colgroup">New harness</th>
            <th rowspan="2" scope="col">Proved by continuity</th>
            <th rowspan="2" scope="col">Verdict</th>
            <th rowspan="2" scope="col"><span class="visually-hidden">Remove</span></th>
          </tr>
          <tr>
            <th v-for="(title, at) in TITLES" :key="at" scope="col">{{ title }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in pairs" :key="row.id">
            <td><EditCell label="function" :text="row.function" :save="set(row, 'function')" /></td>
            <td v-for="(field, at) in FIELDS" :key="field">
              <EditCell :label="`${at < 3 ? 'old' : 'new'} ${TITLES[at]}`" :text="row[field]" :save="set(row, field)" />
            </td>
            <td class="middle-cell">
              <input type="checkbox" :checked="row.proved" :aria-label="`${row.function} proved by continuity`" @change="tick(row)" />
            </td>
            <td>
              <VerdictMark :verdict="worst(audit?.pin_pairs[row.id])" />
              <small v-for="remark in audit?.pin_pairs[row.id]" :key="remark.text">{{ remark.text }}</small>
            </td>
            <td class="acts">
              <button type="button" :aria-label="`Note and photos of ${row.function}`" :title="row.note || 'Note and photos'" @click="opened = row.id">
                {{ row.note ? '✎' : '⋯' }}
              </button>
              <button type="button" :aria-label="`Remove ${row.function}`" @click="drop(row)">✕</button>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else class="empty">
        No functions mapped. Adapting one harness to another: one line a function, the old plug and pin
        beside the new ones, ticked when a continuity test has proved them the same.
      </p>
    </div>
    <EntryDetail
      v-for="row in pairs.filter((one) => one.id === opened)"
      :key="row.id"
      collection="pin_pairs"
      :identity="row.id"
      :name="row.function"
      :text="row.note"
      @close="opened = null"
    />
    </div>
  </section>
</template>

<style scoped src="../loom.css"></style>
