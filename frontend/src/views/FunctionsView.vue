<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answered, type Answers, client, type Operation, Refused, type Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuild, useBuildId, useFunctionsElsewhere, useRecipes, useRecipeSchematic, useResults } from '@/api/queries'
import { byId } from '@/byId'
import { inWords } from '@/changeWords'
import { usePartsCatalogue } from '@/colours'
import DrawingSheet from '@/components/DrawingSheet.vue'
import EveningSheet from '@/components/EveningSheet.vue'
import VerdictMark from '@/components/VerdictMark.vue'
import WaysOut from '@/components/WaysOut.vue'
import RecipeQuestion from '@/components/RecipeQuestion.vue'
import { keptIn } from '@/kept'

/**
 * Every function that can be written into the car, with its help, its questions and what it would
 * change. With a circuit in the address it is written again in place of that circuit.
 */
const id = useBuildId()
const route = useRoute()
const router = useRouter()
const { data: build } = useBuild(id)
const { data: recipes } = useRecipes(id)
const { data: results } = useResults(id)
const { edit, preview } = useEdits(id)
usePartsCatalogue()

const again = computed(() => byId(build.value?.circuits).get(route.query.circuit))
const chosenId = computed(() => String(route.params.recipe || 'headlamps'))
const recipe = computed(() => recipes.value?.find((row) => row.id === chosenId.value))
const { data: drawing } = useRecipeSchematic(chosenId)

const answers = ref<Answers>({})
const name = ref('')
const would = ref<Schemas['EditAnswer'] | null>(null)
const changed = ref<Schemas['ChangeView'][]>([])
const problem = ref<Schemas['Problem'] | null>(null)

const storeName = computed(() => `oilstone-function-${id.value}-${chosenId.value}-${again.value?.id ?? ''}`)

watch(
  [recipe, () => again.value?.id],
  () => {
    if (!recipe.value) return
    const usual = Object.fromEntries(recipe.value.questions.map((row) => [row.name, row.usual]))
    const written = again.value?.written?.answers ?? {}
    const typed = stored()
    answers.value = { ...usual, ...written, ...typed.answers }
    name.value = typed.name ?? again.value?.name ?? ''
  },
  { immediate: true },
)

/** What was typed and not written yet; a reload keeps it. */
interface Typed {
  name?: string
  answers?: Answers
}

function stored(): Typed {
  return keptIn(sessionStorage, storeName.value, {})
}

const { data: elsewhere } = useFunctionsElsewhere(id)
const anew = ref<string[]>([])
const notTaken = ref('')
watch(chosenId, () => (anew.value = []))

/** Ask here what was answered in another build; nothing is written before it is looked at. */
async function takeOver(event: Event): Promise<void> {
  const chooser = event.target as HTMLSelectElement
  const [other, circuit] = chooser.value.split(' ')
  chooser.value = ''
  notTaken.value = ''
  try {
    const path = { build_id: id.value, other_id: Number(other), circuit_id: circuit! }
    const taken = await answered(client.GET('/api/builds/{build_id}/functions-elsewhere/{other_id}/{circuit_id}', { params: { path } }))
    await router.push({ name: 'functions', params: { id: id.value, recipe: taken.recipe } })
    const usual = recipe.value?.questions.map((row) => [row.name, row.usual]) ?? []
    answers.value = { ...Object.fromEntries(usual), ...(taken.answers as Answers) }
    name.value = taken.name
    keep({ answers: answers.value, name: name.value })
    anew.value = taken.anew
  } catch (refused) {
    if (!(refused instanceof Refused)) throw refused
    notTaken.value = refused.message
  }
}

const operation = computed<Operation>(() => ({
  op: 'write_recipe',
  recipe: chosenId.value,
  ...(name.value.trim() ? { name: name.value.trim() } : {}),
  answers: answers.value,
  ...(again.value ? { circuit: again.value.id } : {}),
}))

/** What was typed, or what the recipe is called until the core has named its circuit. */
const called = computed(() => name.value.trim() || again.value?.name || recipe.value?.title || '')

let asked = 0
let timer: ReturnType<typeof setTimeout> | undefined
watch([operation, () => build.value?.revision], () => {
  clearTimeout(timer)
  timer = setTimeout(() => void look(), 300)
})

function answer(question: string, value: Answers[string]): void {
  answers.value = { ...answers.value, [question]: value }
  keep({ answers: answers.value })
}

function keep(typed: Typed): void {
  sessionStorage.setItem(storeName.value, JSON.stringify({ ...stored(), ...typed }))
}

/** What would be written, before anything is saved. */
async function look(): Promise<void> {
  const mine = ++asked
  if (!recipe.value) return
  try {
    const result = await preview('Look', [operation.value], (changes) => {
      if (mine === asked) changed.value = changes
    })
    if (mine !== asked) return
    would.value = result
    problem.value = null
  } catch (refused) {
    if (!(refused instanceof Refused)) throw refused
    if (mine !== asked) return
    would.value = null
    changed.value = []
    problem.value = refused.problem
  }
}

const evening = ref<Schemas['WhatItTakes'] | null>(null)
const asking = ref(false)
watch(operation, () => (evening.value = null))

/** What writing it asks of an evening on a car that is finished. */
async function askEvening(): Promise<void> {
  asking.value = true
  const asked = operation.value
  try {
    const body = { base: build.value!.revision, label: 'Look', operations: [asked] }
    const answer = await answered(client.POST('/api/builds/{build_id}/evening', { params: { path: { build_id: id.value } }, body }))
    if (asked === operation.value) evening.value = answer
  } catch (refused) {
    if (!(refused instanceof Refused)) throw refused
    problem.value = refused.problem
  }
  asking.value = false
}

const differences = computed(() => inWords(changed.value))

/** What the writing would bring to look at that is not there now. */
const brought = computed(() => {
  const known = new Set(results.value?.findings.map((row) => row.title))
  return (would.value?.results.findings ?? []).filter((row) => !known.has(row.title))
})

/** The circuits that each function has written. */
const inCar = computed(() => {
  const found = new Map<string, Schemas['CircuitView'][]>()
  for (const row of build.value?.circuits ?? []) {
    if (row.written) found.set(row.written.recipe, [...(found.get(row.written.recipe) ?? []), row])
  }
  return found
})

const GROUPS = { feed: 'Supply', engine: 'Engine', lighting: 'Lamps', accessory: 'Accessories and control' }
const grouped = computed(() =>
  Object.entries(GROUPS).map(([group, title]) => ({
    title,
    rows: (recipes.value ?? []).filter((row) => row.group === group),
  })),
)

/** Write it; what is in the car already keeps its sizes where these are to be pinned. */
async function write(pins: Operation[] = []): Promise<void> {
  const label = again.value ? `Write ${called.value} again` : `Write ${called.value}`
  const created = changed.value.find((row) => row.collection === 'circuits' && row.before === null)
  await edit(label, [...pins, operation.value], () => {
    sessionStorage.removeItem(storeName.value)
    const circuit = again.value?.id ?? created?.id
    void router.push({ name: 'circuits', params: { id: id.value, circuit } })
  })
}
</script>

<template>
  <div class="functions">
    <nav aria-label="Functions">
      <template v-for="group in grouped" :key="group.title">
        <h3>{{ group.title }}</h3>
        <RouterLink
          v-for="row in group.rows"
          :key="row.id"
          :to="{ name: 'functions', params: { id, recipe: row.id } }"
          :aria-current="row.id === chosenId ? 'page' : undefined"
        >
          {{ row.title }}
          <span v-if="inCar.has(row.id)" class="in-car" title="In the car already">in the car</span>
        </RouterLink>
      </template>
      <label v-if="elsewhere?.length" class="elsewhere">
        As in another build
        <select class="field" @change="takeOver">
          <option value="">choose…</option>
          <optgroup v-for="row in elsewhere" :key="row.build" :label="row.name">
            <option v-for="circuit in row.circuits" :key="circuit.id" :value="`${row.build} ${circuit.id}`">{{ circuit.name }}</option>
          </optgroup>
        </select>
        <span v-if="notTaken" class="refusal" role="alert">{{ notTaken }}</span>
      </label>
    </nav>

    <section v-if="recipe && build" class="recipe">
      <header>
        <h1>{{ again ? `Write “${again.name}” again` : recipe.title }}</h1>
        <RouterLink :to="{ name: 'circuits', params: { id, circuit: again?.id } }">Back to Circuits</RouterLink>
      </header>
      <p>{{ recipe.summary }}</p>
      <p v-if="!again && inCar.has(recipe.id)" class="already">
        In the car already:
        <template v-for="row in inCar.get(recipe.id)" :key="row.id">
          <RouterLink :to="{ name: 'circuits', params: { id, circuit: row.id } }">{{ row.name }}</RouterLink>
          (<RouterLink :to="{ name: 'functions', params: { id, recipe: recipe.id }, query: { circuit: row.id } }">write it again…</RouterLink>)
        </template>
        Below is one more.
      </p>
      <p v-if="anew.length" class="already" role="status">To be answered for this car: {{ anew.join(', ') }}.</p>
      <p class="caution"><b>▲ Caution.</b> {{ recipe.caution }}</p>
      <div class="columns">
        <form aria-label="Answers" @submit.prevent="write()">
          <div class="question-name">
            <label for="circuit-name">Call it</label>
            <input id="circuit-name" v-model="name" maxlength="80" :placeholder="recipe.title" @input="keep({ name })" />
          </div>
          <RecipeQuestion
            v-for="question in recipe.questions"
            :key="chosenId + question.name"
            :question="question"
            :build="build"
            :model-value="answers[question.name] ?? null"
            @update:model-value="(value) => answer(question.name, value)"
          />
          <div class="would" role="status">
            <p v-if="problem" class="refusal">{{ problem.message }} <WaysOut :mends="problem.mends" /></p>
            <template v-else>
              <p v-for="group in differences" :key="group.said">
                <b>{{ group.said }}</b>
                <span v-for="row in group.rows" :key="row" class="difference">{{ row }}</span>
              </p>
              <p v-for="row in brought" :key="row.title"><VerdictMark :verdict="row.severity" /> {{ row.title }}</p>
              <p v-if="would && !differences.length" class="quiet">Nothing would change.</p>
              <p v-if="!would" class="quiet">{{ differences.length ? 'Sizing it…' : 'Looking what it would write…' }}</p>
            </template>
          </div>
          <p class="acts">
            <AButton type="primary" html-type="submit" :disabled="!would">
              {{ again ? 'Write it again' : `Write ${called}` }}
            </AButton>
            <AButton :disabled="!would" :loading="asking" @click="askEvening">What the evening takes</AButton>
          </p>
          <EveningSheet v-if="evening" :view="evening" :called="called" @keep="write(evening.pins as Operation[])" />
        </form>
        <aside>
          <h3>How it is wired</h3>
          <DrawingSheet :drawing="drawing" :title="recipe.title" comes />
          <h3>What usually goes wrong</h3>
          <ul>
            <li v-for="row in recipe.wrong" :key="row">{{ row }}</li>
          </ul>
        </aside>
      </div>
    </section>
    <p v-else class="empty">Reading the functions…</p>
  </div>
</template>

<style scoped>
.functions {
  display: flex;
  height: 100%;
}

nav {
  display: flex;
  width: 218px;
  flex: none;
  flex-direction: column;
  overflow-y: auto;
  padding: 8px 0 12px;
  border-right: 1px solid var(--rule);
  background: var(--sheet);
}

nav h3 {
  padding: 8px 12px 2px;
  color: var(--quiet);
}

nav a {
  padding: 3px 12px;
  color: var(--ink);
  text-decoration: none;
}

.elsewhere {
  display: flex;
  flex-direction: column;
  gap: 4px;
  padding: 14px 12px 0;
}

nav .in-car {
  float: right;
  color: var(--moss);
  font-size: 12px;
}

nav a:hover {
  color: var(--copper);
}

nav a[aria-current] {
  background: var(--copper-wash);
  box-shadow: inset 3px 0 var(--copper);
  font-weight: 600;
}

.recipe {
  min-width: 0;
  flex: 1;
  overflow-y: auto;
  padding: 10px 16px 20px;
}

header {
  display: flex;
  gap: 14px;
  align-items: baseline;
  justify-content: space-between;
}

.caution {
  padding: 6px 10px;
  border-left: 4px solid var(--ochre);
  background: var(--sheet);
}

.caution b {
  color: var(--ochre);
}

.columns {
  display: grid;
  gap: 18px;
  grid-template-columns: minmax(340px, 1fr) minmax(0, 1fr);
}

form {
  display: flex;
  flex-direction: column;
  gap: 7px;
  align-items: stretch;
}

.acts {
  display: flex;
  gap: 12px;
  margin: 0;
}

.question-name {
  display: grid;
  gap: 8px;
  grid-template-columns: 150px 1fr;
  align-items: center;
}

.question-name input {
  height: 27px;
  padding: 0 5px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.would {
  padding: 6px 0 2px;
  border-top: 1px solid var(--rule);
}

.difference {
  display: block;
  padding-left: 10px;
  color: var(--quiet);
}

.drawing {
  overflow: auto;
  max-height: 320px;
  margin-bottom: 10px;
}

ul {
  padding-left: 18px;
  margin: 4px 0;
}

@media (max-width: 1000px) {
  .functions {
    height: auto;
    flex-direction: column;
  }

  nav {
    width: auto;
    max-height: 220px;
    border-right: 0;
    border-bottom: 1px solid var(--rule);
  }

  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
