<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Button as AButton } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answered, client, Refused, type Schemas } from '@/api/client'
import { useBuild, useBuildId, useDiagnosis, useMendedFaults, usePlan } from '@/api/queries'
import { moment } from '@/format'
import { keptIn } from '@/kept'
import { figure, readAs } from '@/proving'
import { newMark, useProofs } from '@/stores/proofs'

const id = useBuildId()
const { data: plan } = usePlan(id)
const { data: build } = useBuild(id)
const { data: before } = useMendedFaults(id)
const proofs = useProofs()
const queries = useQueryClient()

type Known = Required<Schemas['DiagnosisRequest']>

const NAME = computed(() => `oilstone-search-${id.value}`)
const known = ref<Known>(stored())
watch(known, (value) => localStorage.setItem(NAME.value, JSON.stringify(value)), { deep: true })
watch(NAME, () => (known.value = stored()))

function stored(): Known {
  const empty = { seen: [], tests: [], not_it: [], by_proofs: true, without: [] }
  return { ...empty, ...keptIn(localStorage, NAME.value, {}) }
}

const { data: found, error, isFetching } = useDiagnosis(
  id,
  computed(() => known.value),
)

const stepId = ref('')
const load = ref('')
const word = ref('dead')
const SEEN = ['dead', 'dim', 'glows', 'flickers', 'does not go off', 'turns backwards', 'works']
const steps = computed(() =>
  (plan.value?.steps ?? []).filter((step) => step.section === 'functions' && step.looks.some((look) => look.load)),
)
const step = computed(() => steps.value.find((row) => row.id === stepId.value))
const loads = computed(() => step.value?.looks.filter((look) => look.load) ?? [])
/** Whatever else does something that it should not. */
const others = computed(() =>
  (build.value?.parts ?? []).filter((part) => part.kind === 'load' && !loads.value.some((look) => look.load === part.id)),
)
watch(step, () => (load.value = loads.value[0]?.load ?? ''))

function say(): void {
  if (!step.value || !load.value) return
  const others = known.value.seen.filter((row) => row.step !== stepId.value || row.load !== load.value)
  known.value = { ...known.value, seen: [...others, { step: stepId.value, load: load.value, word: word.value }] }
}

const chosen = ref(0)
const test = computed(() => found.value?.tests[chosen.value] ?? found.value?.tests[0])
/** Outcomes that may well come; what next to nothing leads to is left out. */
const outcomes = computed(() => test.value?.outcomes.filter((row) => row.share >= 0.01) ?? [])
/** Whether another test has the same title: they are in different situations. */
const isTwice = (row: Schemas['TestView']) => found.value?.tests.some((one) => one.id !== row.id && one.title === row.title)
const reading = ref('')
const trouble = ref('')
watch(
  () => test.value?.id,
  () => {
    reading.value = ''
    trouble.value = ''
  },
)

function made(row: Schemas['TestMade']): void {
  known.value = { ...known.value, tests: [...known.value.tests, row] }
  chosen.value = 0
}

function read(): void {
  if (!test.value) return
  if (readAs(reading.value, test.value.unit) === undefined) {
    trouble.value = `“${reading.value}” is no reading. Type a figure, like 11.4 or 850 mV.`
    return
  }
  made({ id: test.value.id, reading: reading.value })
}

function notIt(of: string): void {
  known.value = { ...known.value, not_it: [...known.value.not_it, of] }
}

const TOOLS = ['meter', 'test lamp', 'fused jumper'] as const

/** A tool laid down is not asked for; taken up again, it is. */
function layDown(tool: (typeof TOOLS)[number], atHand: boolean): void {
  const others = known.value.without.filter((row) => row !== tool)
  known.value = { ...known.value, without: atHand ? others : [...others, tool] }
  chosen.value = 0
}

function takeBack(): void {
  known.value = { ...known.value, tests: known.value.tests.slice(0, -1) }
}

function anew(): void {
  known.value = { ...known.value, seen: [], tests: [], not_it: [] }
}

function span(row: Schemas['SearchOutcome'], unit: string): string {
  if (row.low === null || row.high === null) return row.said || 'floats'
  const [low, high] = [figure(row.low, unit), figure(row.high, unit)]
  return low === high ? `about ${low}` : `${low.split(' ')[0]} to ${high}`
}

const mending = ref<Schemas['SuspectView']>()
const note = ref('')
const kept = ref<{ words: string; steps: { step: string; title: string }[] }>()
const refused = ref('')

/** Keep what it was in the car's history, and begin anew: what was amiss is to be proved again. */
async function mended(): Promise<void> {
  const row = mending.value
  if (!row || !found.value) return
  const seen = amiss.value.map((one) => `${one.title}: ${one.name} ${one.word}`)
  const body = { of: row.of, words: row.words, seen, tests: found.value.made, minutes: found.value.minutes, note: note.value, who: proofs.who, mark: newMark() }
  try {
    await answered(client.POST('/api/builds/{build_id}/faults', { params: { path: { build_id: id.value } }, body }))
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = `Not kept. ${problem.message} The search is as it was.`
    return
  }
  const steps = new Map(amiss.value.map((one) => [one.step, one.title]))
  kept.value = { words: row.words, steps: [...steps].map(([step, title]) => ({ step, title })) }
  refused.value = note.value = ''
  mending.value = undefined
  anew()
  await queries.invalidateQueries({ queryKey: ['faults', id] })
}

const amiss = computed(() => found.value?.observed.filter((row) => row.amiss) ?? [])
const working = computed(() => (found.value?.observed.length ?? 0) - amiss.value.length)
const percent = (share: number) => `${Math.round(100 * share)} %`
</script>

<template>
  <div class="find">
    <section class="seen" aria-label="What is known">
      <h2>What you saw</h2>
      <p v-if="!amiss.length" class="quiet">
        Nothing is amiss yet. Say below what is, or mark a step of
        <RouterLink :to="{ name: 'power-up', params: { id } }">Power up</RouterLink> as not right.
      </p>
      <ul>
        <li v-for="(row, n) in amiss" :key="n">
          <span>{{ row.name }} <span class="quiet">{{ row.title }}</span></span> <b>{{ row.word }}</b>
        </li>
      </ul>
      <p v-if="working" class="quiet">{{ working }} {{ working === 1 ? 'thing was' : 'things were' }} seen to work.</p>
      <form @submit.prevent="say">
        <label>
          With
          <select v-model="stepId" aria-label="what is operated">
            <option value="">choose what to operate</option>
            <option v-for="row in steps" :key="row.id" :value="row.id">{{ row.title }}</option>
          </select>
        </label>
        <label v-if="step">
          this
          <select v-model="load" aria-label="what">
            <option v-for="look in loads" :key="look.id" :value="look.load">{{ look.name }}</option>
            <optgroup label="something else">
              <option v-for="part in others" :key="part.id" :value="part.id">{{ part.name }}</option>
            </optgroup>
          </select>
        </label>
        <label v-if="step">
          is
          <select v-model="word" aria-label="what it does">
            <option v-for="row in SEEN" :key="row" :value="row">{{ row }}</option>
          </select>
        </label>
        <AButton v-if="step" html-type="submit">That is what I see</AButton>
      </form>
      <label class="tick"><input v-model="known.by_proofs" type="checkbox" /> by what Power up has recorded too</label>
      <fieldset class="tools">
        <legend>At hand</legend>
        <label v-for="tool in TOOLS" :key="tool">
          <input type="checkbox" :checked="!known.without.includes(tool)" @change="layDown(tool, ($event.target as HTMLInputElement).checked)" />
          {{ tool }}
        </label>
      </fieldset>
      <template v-if="found?.made.length || known.seen.length || known.not_it.length">
        <h2>So far</h2>
        <ol>
          <li v-for="(row, n) in found?.made" :key="n">{{ row }}</li>
        </ol>
        <p class="acts">
          <button v-if="known.tests.length" type="button" @click="takeBack">Take the last test back</button>
          <button type="button" @click="anew">Begin anew</button>
        </p>
      </template>
      <template v-if="before?.length">
        <h2>Found before</h2>
        <ul aria-label="Found before">
          <li v-for="row in before" :key="row.id" class="past">
            {{ row.words }}
            <span class="quiet"
              >{{ moment(row.at) }}<template v-if="row.who">, {{ row.who }}</template
              ><template v-if="row.tests.length">, {{ row.tests.length }} {{ row.tests.length === 1 ? 'test' : 'tests' }}</template
              ><template v-if="row.note">: {{ row.note }}</template></span
            >
          </li>
        </ul>
      </template>
      <p class="quiet">
        To practise, let <RouterLink :to="{ name: 'bench', params: { id } }">the bench</RouterLink> hide a fault, and say here what you
        see there.
      </p>
    </section>

    <section class="next" :class="{ asked: test || kept }" aria-label="Next best test" :aria-busy="isFetching">
      <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
      <p v-if="isFetching" class="quiet" role="status">Trying every suspect against what is known…</p>
      <div v-if="kept" class="kept" role="status">
        <h1>Found: {{ kept.words }}</h1>
        <p class="how">It is in the history of the car. Prove again what it spoiled:</p>
        <ul>
          <li v-for="row in kept.steps" :key="row.step">
            <RouterLink :to="{ name: 'power-up', params: { id, step: row.step } }">{{ row.title }}</RouterLink>
          </li>
        </ul>
        <p class="acts"><button type="button" @click="kept = undefined">Look for another</button></p>
      </div>
      <template v-else-if="test">
        <p class="kicker quiet">Next best test · {{ test.place }} · about {{ Math.max(1, Math.round(test.minutes)) }} min</p>
        <h1>{{ test.title }}</h1>
        <p v-if="test.how" class="how">{{ test.how }}</p>
        <p v-for="caution in test.cautions" :key="caution" class="caution"><span aria-hidden="true">▲</span> {{ caution }}</p>
        <div class="outcomes">
          <component
            :is="test.unit ? 'div' : 'button'"
            v-for="row in outcomes"
            :key="`${row.words} ${row.low}`"
            class="outcome"
            :type="test.unit ? undefined : 'button'"
            @click="test.unit || made({ id: test.id, word: row.words })"
          >
            <b>{{ span(row, test.unit) }}</b>
            <span>{{ row.suspects.slice(0, 2).join('; ') }}</span>
            <span class="quiet">{{ row.left }} left, {{ percent(row.share) }} likely</span>
          </component>
        </div>
        <form v-if="test.unit" class="read" @submit.prevent="read">
          <label>
            You read
            <input v-model="reading" inputmode="decimal" autocomplete="off" :aria-label="`You read, in ${test.unit}`" />
            {{ test.unit }}
          </label>
          <AButton type="primary" size="large" html-type="submit" :disabled="!reading.trim()">That is what I read</AButton>
        </form>
        <p v-if="trouble" class="refusal" role="alert">{{ trouble }}</p>
        <p class="acts"><button type="button" @click="made({ id: test.id })">I cannot get there</button></p>
        <template v-if="found && found.tests.length > 1">
          <h2>Instead</h2>
          <ul class="instead">
            <template v-for="(row, n) in found.tests" :key="row.id">
              <li v-if="row.id !== test.id">
                <button type="button" @click="chosen = n">{{ row.title }}</button>
                <span class="quiet"><template v-if="isTwice(row)">{{ row.how }}, </template>about {{ Math.max(1, Math.round(row.minutes)) }} min</span>
              </li>
            </template>
          </ul>
        </template>
      </template>
      <p v-else-if="found && !found.nothing && !isFetching" class="how">No test with what is at hand tells the suspects left apart any further: mend the likeliest, and try.</p>
      <div v-else-if="found?.nothing" class="empty">
        <h1>What is wrong?</h1>
        <p>Say what you operate and what you see. Suspects are ranked by how well each explains all of it, and the next test is the one that tells most for the minutes it takes.</p>
      </div>
    </section>

    <section class="suspects" aria-label="Suspects">
      <h2>Suspects</h2>
      <p v-if="found?.since" class="quiet">Likelier where something was changed since it last worked (“{{ found.since }}”).</p>
      <p v-if="found && !found.nothing" class="quiet" role="status">
        {{ found.left }} {{ found.left === 1 ? 'part or wire is' : 'parts and wires are' }} left<template v-if="found.sure">; the first stands out</template>.
      </p>
      <ol>
        <li v-for="row in found?.suspects" :key="row.of" :class="{ first: found?.sure && row === found.suspects[0] }">
          <span class="line"><b>{{ row.words }}</b><b>{{ percent(row.share) }}</b></span>
          <span class="bar" :style="{ width: `${100 * row.share}%` }" aria-hidden="true"></span>
          <span class="acts">
            <RouterLink v-if="row.circuit" :to="{ name: 'circuits', params: { id, circuit: row.circuit } }">Its fall line</RouterLink>
            <button type="button" @click="mending = mending === row ? undefined : row">It was this</button>
            <button type="button" @click="notIt(row.of)">It was not that</button>
          </span>
          <form v-if="mending?.of === row.of" @submit.prevent="mended">
            <label>What you did about it <input v-model="note" maxlength="500" placeholder="if you like" /></label>
            <AButton type="primary" html-type="submit">Mended: keep it</AButton>
            <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
          </form>
        </li>
      </ol>
      <p class="quiet">Airbag wiring is never probed. Battery negative off before anything is taken apart.</p>
    </section>
  </div>
</template>

<style scoped>
.find {
  display: grid;
  height: 100%;
  grid-template-columns: 290px minmax(0, 1fr) 330px;
}

section {
  overflow-y: auto;
  padding: 12px 16px 20px;
}

.seen {
  border-right: 1px solid var(--rule);
  background: var(--sheet);
}

.suspects {
  border-left: 1px solid var(--rule);
}

h1 {
  margin: 4px 0 6px;
  font-size: 30px;
  line-height: 1.15;
}

h2 {
  margin: 10px 0 4px;
}

ul,
ol {
  padding: 0;
  margin: 0;
  list-style: none;
}

.seen li {
  display: flex;
  gap: 8px;
  justify-content: space-between;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}

.seen li span span {
  display: block;
  font-size: 13px;
}

.seen li b {
  color: var(--brick);
  white-space: nowrap;
}

form label {
  display: block;
  margin: 6px 0;
}

select,
input:not([type='checkbox']) {
  width: 100%;
  min-height: 36px;
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.seen .past {
  display: block;
}

.tick {
  display: block;
  margin-top: 10px;
}

.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  padding: 0;
  border: 0;
  margin: 8px 0 0;
}

.tools legend {
  padding: 0;
  color: var(--quiet);
  font-size: 13px;
}

.how {
  font-size: 17px;
}

.caution {
  padding: 4px 12px;
  border-left: 4px solid var(--amber);
  color: var(--amber-ink);
}

.outcomes {
  display: grid;
  gap: 10px;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  margin: 12px 0;
}

.outcome {
  display: flex;
  flex-direction: column;
  gap: 4px;
  padding: 10px 12px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  text-align: left;
}

button.outcome {
  border-color: var(--copper);
  cursor: pointer;
}

.outcome b {
  font-family: var(--heading);
  font-size: 21px;
  font-weight: 600;
  line-height: 1.1;
}

.read {
  display: flex;
  gap: 14px;
  align-items: end;
}

.read input {
  width: 130px;
  min-height: 56px;
  padding: 2px 8px;
  font-family: var(--heading);
  font-size: 30px;
  text-align: right;
}

.acts button,
.instead button {
  padding: 0;
  border: 0;
  margin-right: 14px;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
  text-align: left;
}

.suspects li {
  padding: 8px 10px;
  border: 1px solid var(--rule);
  margin-bottom: 8px;
  background: var(--sheet);
}

.suspects li.first {
  border-color: var(--copper);
}

.suspects .line {
  display: flex;
  gap: 10px;
  justify-content: space-between;
}

.suspects .line b:last-child {
  white-space: nowrap;
}

.bar {
  display: block;
  height: 4px;
  margin: 4px 0;
  background: var(--copper);
}

.suspects .acts > * {
  margin-right: 14px;
}

@media (max-width: 1000px) {
  .find {
    display: flex;
    height: auto;
    flex-direction: column;
  }

  .next.asked {
    order: -1;
    border-bottom: 1px solid var(--rule);
  }

  .seen,
  .suspects {
    border: 0;
    border-bottom: 1px solid var(--rule);
  }

  .acts button,
  .instead button {
    min-height: 44px;
  }
}
</style>
