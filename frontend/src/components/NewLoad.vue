<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, nextTick, reactive, ref, watch } from 'vue'

import { type Asked, type BuildView, type Operation, Refused, type Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId, useCatalogueLoads, useChoices } from '@/api/queries'
import { fixed } from '@/format'
import { keptIn } from '@/kept'

import WaysOut from './WaysOut.vue'

const props = defineProps<{ build: BuildView }>()

const id = useBuildId()
const { data: catalogue } = useCatalogueLoads()
const { data: choices } = useChoices(id)
const { edit, preview } = useEdits(id)

const NEW_SWITCH = 'new switch'
const NEW_BUTTON = 'new button'
/** What is typed so far: how the load is wired, in the words of the operation. */
type Draft = Required<Pick<NonNullable<Asked<'add_load'>['wiring']>, 'key' | 'through'>> &
  Record<'name' | 'what' | 'place' | 'by' | 'behind', string>

const EMPTY: Draft = { name: '', what: '', place: '', key: 'always', by: '', through: 'direct', behind: '' }
const draft = reactive<Draft>({ ...EMPTY, ...stored() })
const missing = ref<string | null>(null)
const says = ref('')
const problem = ref<Schemas['Problem'] | null>(null)

const what = computed(() => catalogue.value?.find((row) => row.name === draft.what))
const joinable = computed(() => props.build.circuits.filter((circuit) => circuit.intent))
const beside = computed(() => joinable.value.find((row) => row.id === draft.through))
const fuses = computed(() => choices.value?.fuses.filter((row) => row.key === draft.key) ?? [])
const freeWay = computed(() =>
  choices.value?.ways.find((row) => row.key === draft.key && row.fuse === null),
)

watch(draft, (value) => sessionStorage.setItem(storeName(), JSON.stringify(value)))
watch([() => draft.name, catalogue], ([name]) => {
  const match = completed(name)
  if (match) draft.what = match
})
watch(
  () => draft.by,
  (by) => {
    const output = choices.value?.switches.find((row) => row.terminal === by)
    if (output?.key && output.key !== 'crank') draft.key = output.key as Draft['key']
    draft.behind = ''
  },
)

let asked = 0
let timer: ReturnType<typeof setTimeout> | undefined
watch([draft, () => props.build.revision], () => {
  clearTimeout(timer)
  timer = setTimeout(() => void look(), 350)
})

function storeName(): string {
  return `oilstone-new-load-${id.value}`
}

function stored(): Partial<Draft> {
  return keptIn(sessionStorage, storeName(), {})
}

function rating(row: Schemas['CatalogueLoad']): string {
  return row.rated_w === null ? `${row.rated_a} A` : `${row.rated_w} W`
}

function operation(): Operation {
  if (beside.value) {
    const { id: circuit } = beside.value
    return { op: 'add_load', name: draft.name.trim(), catalogue: draft.what, place: draft.place, beside: circuit }
  }
  const isNew = draft.by === NEW_SWITCH || draft.by === NEW_BUTTON
  return {
    op: 'add_load',
    name: draft.name.trim(),
    catalogue: draft.what,
    place: draft.place,
    wiring: {
      key: draft.key,
      switch: isNew || !draft.by ? null : draft.by,
      new_switch: isNew
        ? {
            name: `${draft.name.trim()} switch`.slice(0, 80),
            place: dashPlace(),
            momentary: draft.by === NEW_BUTTON,
          }
        : null,
      through: draft.through,
      fuse: draft.behind || null,
    },
  }
}

/**
 * The one catalogue row that a typed name says: the same words, or the only one that has them all;
 * of a filament lamp and its LED twin, the filament lamp.
 */
function completed(name: string): string | undefined {
  const typed = name.trim().toLowerCase()
  const rows = (catalogue.value ?? []).map((row) => row.name)
  const exact = rows.find((row) => row.toLowerCase() === typed)
  if (exact || typed.length < 3) return exact
  const words = typed.split(/\s+/)
  const fitting = rows.filter((row) => words.every((word) => row.toLowerCase().includes(word)))
  const filament = fitting.filter((row) => !/\bled\b/i.test(row))
  return [fitting, filament].find((found) => found.length === 1)?.[0]
}

/** A new switch starts where the other switches are; it can be moved. */
function dashPlace(): string {
  const cabin = props.build.places.find((place) => /dash/i.test(place.name))
  return (cabin ?? props.build.places.find((place) => place.zone === 'cabin'))?.id ?? draft.place
}

/** What would be fitted, before anything is saved. */
async function look(): Promise<void> {
  const mine = ++asked
  problem.value = null
  says.value = ''
  if (!draft.name.trim() || !what.value || !draft.place) return
  try {
    const answer = await preview('Look', [operation()])
    if (mine === asked) says.value = wouldFit(answer)
  } catch (refused) {
    if (!(refused instanceof Refused)) throw refused
    if (mine === asked) problem.value = refused.problem
  }
}

function wouldFit(answer: Schemas['EditAnswer']): string {
  const added = answer.changes.find((row) => row.collection === 'parts' && row.before === null)
  const line = answer.results.circuits[String(added?.after?.circuit)]
  if (!line) return ''
  const fuse = line.fuse ? answer.results.fuses[line.fuse] : undefined
  return [
    `takes ${fixed(line.current_a, 1)} A`,
    `fuse ${fuse ? `${fuse.rating_a} A` : 'none'}`,
    `wire ${line.size}`,
    `drop ${fixed(line.drop_percent, 1)} % of at most ${fixed(line.limit_percent, 1)} %`,
  ].join(' · ')
}

async function add(): Promise<void> {
  missing.value = !draft.name.trim()
    ? 'Type a name.'
    : !what.value
      ? 'Choose from the list what it is: that gives its typical figures.'
      : !draft.place
        ? 'Choose where it is.'
        : null
  if (missing.value) return
  await edit(`Add ${draft.name.trim()}`, [operation()], () => {
    Object.assign(draft, { ...EMPTY, place: draft.place })
    void nextTick(() => document.getElementById('new-load')?.focus())
  })
}
</script>

<template>
  <form class="new no-print" aria-label="New load" @submit.prevent="add">
    <label class="wide">
      <span>New load</span>
      <input
        id="new-load"
        v-model="draft.name"
        list="catalogue-loads"
        autocomplete="off"
        maxlength="80"
        placeholder="Type its name: horn, fog lamp…"
      />
      <datalist id="catalogue-loads">
        <option v-for="row in catalogue" :key="row.name" :value="row.name">
          {{ rating(row) }} typical
        </option>
      </datalist>
    </label>
    <label>
      <span>What it is</span>
      <select v-model="draft.what">
        <option value="" disabled>choose…</option>
        <option v-for="row in catalogue" :key="row.name" :value="row.name">
          {{ row.name }} · {{ rating(row) }}
        </option>
      </select>
    </label>
    <label>
      <span>Where</span>
      <select v-model="draft.place">
        <option value="" disabled>choose…</option>
        <option v-for="row in build.places" :key="row.id" :value="row.id">{{ row.name }}</option>
      </select>
    </label>
    <label>
      <span>Switched by</span>
      <select v-model="draft.by" :disabled="!!beside">
        <option value="">key only</option>
        <option v-for="row in choices?.switches" :key="row.terminal" :value="row.terminal">
          {{ row.name }}
        </option>
        <option :value="NEW_SWITCH">a new switch</option>
        <option :value="NEW_BUTTON">a new push button</option>
      </select>
    </label>
    <label class="narrow">
      <span>Live from</span>
      <select v-model="draft.key" :disabled="!!beside">
        <option value="always">always</option>
        <option value="accessory">accessory</option>
        <option value="run">run</option>
      </select>
    </label>
    <label class="narrow">
      <span>Through</span>
      <select v-model="draft.through">
        <option value="direct">direct</option>
        <option value="relay">relay</option>
        <optgroup label="beside the loads of">
          <option v-for="row in joinable" :key="row.id" :value="row.id">{{ row.name }}</option>
        </optgroup>
      </select>
    </label>
    <label>
      <span>Behind fuse</span>
      <select v-model="draft.behind" :disabled="!!beside">
        <option value="">{{ freeWay ? `new, in ${freeWay.way}` : 'by itself' }}</option>
        <option v-for="row in fuses" :key="row.fuse" :value="row.fuse">share {{ row.name }}</option>
      </select>
    </label>
    <AButton type="primary" html-type="submit">Add load</AButton>
    <p class="says" role="status">
      <span v-if="missing" class="wrong">▲ {{ missing }}</span>
      <span v-else-if="problem" class="wrong">▲ {{ problem.message }} <WaysOut :mends="problem.mends" /></span>
      <template v-else-if="says">Oilstone would fit: {{ says }}</template>
      <span v-else class="quiet">N starts a new line. Enter adds it; Undo takes it back.</span>
    </p>
  </form>
</template>

<style scoped>
.new {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: end;
  padding: 8px 12px 6px;
  border-bottom: 1px solid var(--rule);
  background: var(--card);
}

label {
  width: 124px;
}

.wide {
  width: 200px;
}

.narrow {
  width: 92px;
}

label > span:first-child {
  display: block;
  color: var(--quiet);
  font-family: var(--heading);
  font-size: 14px;
}

select,
input {
  width: 100%;
  height: 26px;
  border: 1px solid var(--rule);
  border-color: color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.says {
  width: 100%;
  min-height: 20px;
  margin: 0;
}

.wrong {
  color: var(--brick);
}
</style>
