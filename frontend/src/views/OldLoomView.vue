<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { refusal, useEdits } from '@/api/edits'
import { useAudit, useBuild, useBuildId } from '@/api/queries'
import EditCell from '@/components/EditCell.vue'
import NoteField from '@/components/NoteField.vue'
import PhotoStrip from '@/components/PhotoStrip.vue'
import SideSheet from '@/components/SideSheet.vue'
import StockTabs from '@/components/StockTabs.vue'
import VerdictMark from '@/components/VerdictMark.vue'
import { typedNumber } from '@/format'
import { add, change, CONDITIONS, DECISIONS, freshId, options, remove, worst } from '@/looms'

type Found = Schemas['FoundCircuitView']
type Stretch = Schemas['StretchView']

const COLLECTION = 'found_circuits'
const id = useBuildId()
const { data: build } = useBuild(id)
const { data: audit } = useAudit(id)
const { edit } = useEdits(id)
const fresh = ref('')
const chosenId = ref<string | null>(null)
const wanted = ref('')

const entries = computed(() => build.value?.found_circuits ?? [])
const shown = computed(() =>
  entries.value.filter((row) => JSON.stringify(row).toLowerCase().includes(wanted.value.toLowerCase())),
)
const chosen = computed(() => entries.value.find((row) => row.id === chosenId.value) ?? null)
const toDecide = computed(() => entries.value.filter((row) => row.decision === 'to decide').length)
const goesTo = computed(() =>
  (build.value?.parts ?? []).filter((part) => part.kind === 'load').map((part) => part.name),
)

async function addEntry(): Promise<void> {
  const name = fresh.value.trim()
  if (!name) return
  const entry = freshId(name, entries.value)
  await edit(`Found ${name}`, [add(COLLECTION, { id: entry, name, stretches: [] })], () => {
    fresh.value = ''
    chosenId.value = entry
  })
}

function set(row: Found, field: string, words: string) {
  return (value: string, done: () => void) =>
    edit(`${words} of ${row.name}`, [change(COLLECTION, row.id, { [field]: value })], done)
}

function setFuse(row: Found) {
  return async (text: string, done: () => void) => {
    const value = typedNumber(text.replace(/\s*a$/i, ''))
    if (text.trim() && (value === null || value <= 0)) {
      refusal.value = `“${text}” is no fuse rating: amps, like 10, or empty for none.`
      return false
    }
    const fields = { fuse_a: text.trim() ? value : null }
    return edit(`Fuse of ${row.name}`, [change(COLLECTION, row.id, fields)], done)
  }
}

function setStretch(row: Found, at: number, field: keyof Stretch) {
  return (text: string, done: () => void) => {
    const value = field === 'colour' ? text.trim().toUpperCase().replace(/[\s-]+/, '/') : text.trim()
    const stretches = row.stretches.map((one, index) => (index === at ? { ...one, [field]: value } : one))
    return edit(`Stretch of ${row.name}`, [change(COLLECTION, row.id, { stretches })], done)
  }
}

function setLength(row: Found, at: number) {
  return async (text: string, done: () => void) => {
    const value = typedNumber(text.replace(/\s*m$/i, ''))
    if (text.trim() && (value === null || value < 0 || value > 100)) {
      refusal.value = `“${text}” is no length of a stretch: metres, like 1.2, or empty.`
      return false
    }
    const length_m = text.trim() ? value : null
    const stretches = row.stretches.map((one, index) => (index === at ? { ...one, length_m } : one))
    return edit(`Stretch of ${row.name}`, [change(COLLECTION, row.id, { stretches })], done)
  }
}

function addStretch(row: Found): void {
  const last = row.stretches.at(-1)
  const stretches = [...row.stretches, { colour: last?.colour ?? 'BK', size: last?.size ?? '' }]
  void edit(`Add a stretch to ${row.name}`, [change(COLLECTION, row.id, { stretches })])
}

function dropStretch(row: Found, at: number): void {
  const stretches = row.stretches.filter((_, index) => index !== at)
  void edit(`Remove a stretch of ${row.name}`, [change(COLLECTION, row.id, { stretches })])
}

function saveNote(note: string): void {
  void edit(`Note on ${chosen.value!.name}`, [change(COLLECTION, chosen.value!.id, { note })])
}

function drop(row: Found): void {
  chosenId.value = null
  void edit(`Remove ${row.name}`, [remove(COLLECTION, row.id)])
}

function colours(row: Found): string {
  return [...new Set(row.stretches.map((one) => one.colour))].join(', then ')
}

function sizes(row: Found): string {
  return [...new Set(row.stretches.map((one) => one.size).filter(Boolean))].join(', ')
}
</script>

<template>
  <section v-if="build" class="loom">
    <StockTabs />
    <div class="tools">
      <form @submit.prevent="addEntry">
        <label>
          <span class="visually-hidden">Circuit found</span>
          <input v-model="fresh" maxlength="80" placeholder="Circuit found: tail lamps, horn…" />
        </label>
        <AButton html-type="submit" size="small" type="primary">Add what was found</AButton>
      </form>
      <input v-model="wanted" type="search" placeholder="Filter" aria-label="Filter entries" />
      <b>{{ entries.length }} found, {{ toDecide }} to decide</b>
    </div>
    <div class="middle">
      <div class="list">
        <table v-if="entries.length">
          <caption class="visually-hidden">
            Circuits found in the old loom
          </caption>
          <thead>
            <tr>
              <th scope="col">Circuit</th>
              <th scope="col">Colours</th>
              <th scope="col">Gauge</th>
              <th scope="col" class="figure">Fuse, A</th>
              <th scope="col">Condition</th>
              <th scope="col">Goes to</th>
              <th scope="col">Decision</th>
              <th scope="col">Verdict</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in shown" :key="row.id" :class="{ chosen: row.id === chosenId }">
              <td>
                <button class="name" type="button" :aria-current="row.id === chosenId" @click="chosenId = row.id">
                  {{ row.name }}
                </button>
              </td>
              <td>{{ colours(row) || '–' }}</td>
              <td>{{ sizes(row) || '–' }}</td>
              <td class="figure"><EditCell label="fuse" :text="row.fuse_a === null ? '' : String(row.fuse_a)" :save="setFuse(row)" /></td>
              <td><EditCell label="condition" :text="row.condition" :options="options(CONDITIONS)" :save="set(row, 'condition', 'Condition')" /></td>
              <td><EditCell label="goes to" :text="row.goes_to" :suggest="goesTo" :save="set(row, 'goes_to', 'Goes to')" /></td>
              <td><EditCell label="decision" :text="row.decision" :options="options(DECISIONS)" :save="set(row, 'decision', 'Decision')" /></td>
              <td><VerdictMark :verdict="worst(audit?.found_circuits[row.id])" /></td>
            </tr>
          </tbody>
        </table>
        <p v-else class="empty">
          Nothing recorded of an old loom. Take it circuit by circuit: its colours, its gauge in each
          stretch, its joints and its fuse, and what to do with it. Label before cutting.
        </p>
      </div>
      <SideSheet
        v-if="chosen"
        wide
        :name="chosen.name"
        :label="`Found: ${chosen.name}`"
        @close="chosenId = null"
      >
        <template #title>
          <EditCell label="name" :text="chosen.name" :save="set(chosen, 'name', 'Name')" />
        </template>
        <p v-for="remark in audit?.found_circuits[chosen.id]" :key="remark.text" class="remark">
          <VerdictMark :verdict="remark.severity" /> {{ remark.text }}
        </p>
        <h3>Stretches, from the feed onwards</h3>
        <table>
          <thead>
            <tr>
              <th scope="col">Colour</th>
              <th scope="col">Gauge</th>
              <th scope="col">Ends at</th>
              <th scope="col">Joint there</th>
              <th scope="col" class="figure">m</th>
              <th scope="col"><span class="visually-hidden">Remove</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(stretch, at) in chosen.stretches" :key="at">
              <td><EditCell label="colour" :text="stretch.colour" :save="setStretch(chosen, at, 'colour')" /></td>
              <td><EditCell label="gauge" :text="stretch.size" :save="setStretch(chosen, at, 'size')" /></td>
              <td><EditCell label="ends at" :text="stretch.ends_at" :save="setStretch(chosen, at, 'ends_at')" /></td>
              <td><EditCell label="joint" :text="stretch.joint" :save="setStretch(chosen, at, 'joint')" /></td>
              <td class="figure"><EditCell label="length, m" :text="stretch.length_m === null ? '' : String(stretch.length_m)" :save="setLength(chosen, at)" /></td>
              <td><button type="button" aria-label="Remove this stretch" @click="dropStretch(chosen, at)">✕</button></td>
            </tr>
          </tbody>
        </table>
        <p><AButton size="small" @click="addStretch(chosen)">Add a stretch</AButton></p>
        <p class="quiet codes">
          Colour, then tracer: BN/YE is brown with a yellow tracer.
          <span v-for="(name, code) in audit?.colours" :key="code">{{ code }} {{ name }}</span>
        </p>
        <NoteField :of="chosen.id" :text="chosen.note" @save="saveNote" />
        <h3>Photos</h3>
        <PhotoStrip :collection="COLLECTION" :identity="chosen.id" />
        <p class="last"><AButton danger size="small" @click="drop(chosen)">Remove this entry</AButton></p>
      </SideSheet>
    </div>
  </section>
</template>

<style scoped src="../loom.css"></style>
