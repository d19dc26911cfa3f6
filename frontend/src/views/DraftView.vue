<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { answered, client, type Operation, Refused, type Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuild, useBuildId } from '@/api/queries'
import StockTabs from '@/components/StockTabs.vue'
import VerdictMark from '@/components/VerdictMark.vue'
import { fixed, volts } from '@/format'
import { keptIn } from '@/kept'

/** The wiring of everything in the list that has none, seen before it is written. */
type Draft = Schemas['DraftView']
type Wants = Required<Omit<Schemas['DraftRequest'], 'sized'>>

const id = useBuildId()
const router = useRouter()
const { data: build } = useBuild(id)
const { edit } = useEdits(id)

const USUAL: Wants = {
  fuses: 'one for each side',
  headlamp_relays: true,
  spare_ways: 2,
  left_out: [],
  school: 'fuses and relays',
  modules: 'front and rear',
  keypad: false,
  panels: 'one',
  returns: 'through the body',
  alive: null,
  old_loom_keeps: false,
  moves: [],
}
const FUSES: Wants['fuses'][] = ['one for each side', 'one fuse']
const SCHOOLS: Wants['school'][] = ['fuses and relays', 'modules', 'both']
const SAID: Record<Wants['school'], string> = {
  'fuses and relays': 'Fuses and relays',
  modules: 'Modules',
  both: 'Modules, engine on fuses',
}
/** What a draft can be compared with: the other schools, and each answer turned round. */
const alternatives = computed(() => [
  ...SCHOOLS.filter((row) => row !== wants.school).map((school) => ({ said: SAID[school], wants: { school } })),
  ...FUSES.filter((row) => row !== wants.fuses).map((fuses) => ({
    said: `${SAID[wants.school]}, lamps ${fuses === 'one fuse' ? 'together' : 'apart'}`,
    wants: { fuses },
  })),
  ...(wants.school === 'fuses and relays' && wants.panels === 'one'
    ? [{ said: 'A panel at each end', wants: { panels: 'one at each end' as const } }]
    : []),
  ...(build.value?.body_conducts && wants.returns === 'through the body'
    ? [{ said: 'Returns by wire', wants: { returns: 'by wire' as const } }]
    : []),
])
const storeName = computed(() => `oilstone-draft-${id.value}`)
const wants = reactive<Wants>({ ...USUAL, ...stored() })
const draft = ref<Draft | null>(null)
const other = ref<Draft | null>(null)
const refused = ref('')
const comparing = ref('')
const otherSaid = ref('')
const asking = ref('')

function stored(): Partial<Wants> {
  return keptIn(sessionStorage, storeName.value, {})
}

async function ask(body: Schemas['DraftRequest']): Promise<Draft> {
  return answered(client.POST('/api/builds/{build_id}/draft', { params: { path: { build_id: id.value } }, body }))
}

let asked = 0
let timer: ReturnType<typeof setTimeout> | undefined
watch(
  () => [JSON.stringify(wants), build.value?.revision],
  () => {
    sessionStorage.setItem(storeName.value, JSON.stringify(wants))
    clearTimeout(timer)
    timer = setTimeout(() => void look(), 200)
  },
  { immediate: true },
)

/** The draft at once, and then once more with its sizes. */
async function look(): Promise<void> {
  const mine = ++asked
  if (build.value?.revision === undefined) return
  other.value = null
  try {
    for (const sized of [false, true]) {
      const answer = await ask({ ...wants, sized })
      if (mine !== asked) return
      draft.value = answer
      refused.value = ''
      if (!answer.steps.length) return
    }
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    if (mine === asked) refused.value = problem.message
  }
}

async function compare(said: string, change: Partial<Wants>): Promise<void> {
  comparing.value = said
  try {
    other.value = await ask({ ...wants, ...change, sized: true })
    otherSaid.value = said
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = problem.message
  } finally {
    comparing.value = ''
  }
}

/** Whether a function lives with the key off; what was not asked stays as it is. */
function live(recipe: string, wanted: boolean): void {
  const alive = (draft.value?.alive ?? []).filter((row) => (row.recipe === recipe ? wanted : row.is_alive))
  wants.alive = alive.map((row) => row.recipe)
}

type Branch = Draft['steps'][number]['branches'][number]
/** The load that is being dragged. */
const dragged = ref<Branch | null>(null)

/** What a load can be put behind: ways that are live as its own is, channels of its module. */
function places(row: Branch): Draft['guards'] {
  const guards = draft.value?.guards ?? []
  const group = guards.find((guard) => guard.at === row.at)?.group
  return guards.filter((guard) => guard.group === group && guard.at !== row.at)
}

/** A browser gives up a drag during whose first event the page changes. */
function drag(row: Branch): void {
  setTimeout(() => (dragged.value = row))
}

function canTake(at: string): boolean {
  return dragged.value !== null && places(dragged.value).some((guard) => guard.at === at)
}

function put(row: Branch | null, to: string): void {
  dragged.value = null
  if (!row || !to) return
  wants.moves = [...wants.moves.filter((move) => move.load !== row.id), { load: row.id, to }]
}

function putBack(row: Branch): void {
  wants.moves = wants.moves.filter((move) => move.load !== row.id)
}

function isMoved(row: Branch): boolean {
  return wants.moves.some((move) => move.load === row.id)
}

function take(step: string, wanted: boolean): void {
  wants.left_out = wanted ? wants.left_out.filter((row) => row !== step) : [...wants.left_out, step]
}

const written = computed(() => (draft.value?.steps ?? []).filter((row) => !row.left_out && !row.problem))
const refusedSteps = computed(() => (draft.value?.steps ?? []).filter((row) => row.problem).length)
const loads = computed(() => written.value.reduce((sum, row) => sum + row.branches.length, 0))

/** Circuits with loads that are wired already, by hand or by an earlier draft. */
const standing = computed(
  () => new Set(build.value?.parts.filter((part) => part.kind === 'load' && part.circuit).map((part) => part.circuit)).size,
)

/** What two drafts take, side by side. */
const columns = computed(() => [draft.value, other.value].filter((row): row is Draft => row !== null))
const figures = computed(() => [
  { title: 'Fuses', of: (row: Draft) => `${row.counts.fuse}` },
  { title: 'Relays', of: (row: Draft) => `${row.counts.relay}` },
  { title: 'Modules', of: (row: Draft) => (row.counts.module ? `${row.counts.module}, ${row.counts.channel} channels` : '0') },
  { title: 'Connectors', of: (row: Draft) => `${row.counts.connector}` },
  { title: 'Wires', of: (row: Draft) => `${row.wires}, ${fixed(row.length_m, 0)} m` },
  { title: 'Ends to crimp', of: (row: Draft) => `${2 * row.wires}` },
  {
    title: 'Ways',
    of: (row: Draft) =>
      `${row.ways - row.ways_free} of ${row.ways} taken` + (row.ways_added ? `, ${row.ways_added} added` : ''),
  },
  { title: 'Sizes of wire', of: (row: Draft) => (row.bill ? `${row.bill.sizes}` : '…') },
  {
    title: 'Copper, of the loom',
    of: (row: Draft) => (row.bill ? `${fixed(row.bill.copper_kg, 1)} of ${fixed(row.bill.mass_kg, 1)} kg` : '…'),
  },
  {
    title: 'Most lost',
    of: (row: Draft) => (row.bill ? `${volts(row.bill.most_lost_v)} at ${row.bill.most_lost_at}` : '…'),
  },
  {
    title: 'Most behind one fuse',
    of: (row: Draft) => (row.darkest[0] ? `${row.darkest[0].loads.length} loads, ${row.darkest[0].fuse}` : 'nothing'),
  },
])

async function write(): Promise<void> {
  const operation: Operation = { op: 'draft_wiring', ...wants }
  await edit('Draft the wiring', [operation], () => {
    sessionStorage.removeItem(storeName.value)
    void router.push({ name: 'circuits', params: { id: id.value } })
  })
}
</script>

<template>
  <section v-if="build" class="draft">
    <StockTabs />
    <div class="body">
      <header>
        <h1>Draft the wiring</h1>
        <p>
          Everything in the list that has no wires yet, each function wired as a good builder would. What stands
          stays. Nothing is written before you say so, and one undo takes it all back.
          <b v-if="standing">{{ standing }} {{ standing === 1 ? 'circuit stands and is kept as it is' : 'circuits stand and are kept as they are' }}.</b>
        </p>
      </header>

      <form class="asks" aria-label="What a draft cannot know" @submit.prevent>
        <label>
          Protect and switch with
          <select v-model="wants.school">
            <option v-for="school in SCHOOLS" :key="school" :value="school">{{ SAID[school].toLowerCase() }}</option>
          </select>
        </label>
        <template v-if="wants.school !== 'fuses and relays'">
          <label>
            Modules
            <select v-model="wants.modules">
              <option value="front and rear">front and rear</option>
              <option value="one">one, at the panel</option>
            </select>
          </label>
          <label><input v-model="wants.keypad" type="checkbox" /> a keypad for what comfort asks</label>
        </template>
        <label>
          Left and right lamps
          <select v-model="wants.fuses">
            <option v-for="one in FUSES" :key="one" :value="one">{{ one === 'one fuse' ? 'together' : 'apart' }}</option>
          </select>
        </label>
        <label v-if="wants.school === 'fuses and relays'">
          Headlamps
          <select v-model="wants.headlamp_relays">
            <option :value="true">through relays</option>
            <option :value="false">straight from the switch</option>
          </select>
        </label>
        <label v-if="wants.school === 'fuses and relays'">
          Panels
          <select v-model="wants.panels">
            <option value="one">one</option>
            <option value="one at each end">one at each end</option>
          </select>
        </label>
        <label v-if="build.body_conducts">
          Returns
          <select v-model="wants.returns">
            <option value="through the body">through the body</option>
            <option value="by wire">by wire</option>
          </select>
        </label>
        <label>
          Spare ways
          <input v-model.number="wants.spare_ways" type="number" min="0" max="20" />
        </label>
        <label v-if="draft?.keeps">
          <input v-model="wants.old_loom_keeps" type="checkbox" /> what is to be kept stays on the old loom
        </label>
        <fieldset v-if="draft?.alive.length" class="alive">
          <legend>Alive with the key off</legend>
          <label v-for="row in draft.alive" :key="row.recipe">
            <input type="checkbox" :checked="row.is_alive" @change="live(row.recipe, ($event.target as HTMLInputElement).checked)" />
            {{ row.title }}
          </label>
        </fieldset>
      </form>

      <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
      <p v-else-if="!draft" class="quiet">Drafting…</p>
      <p v-else-if="!draft.steps.length" class="empty">
        Everything in the list is wired.
        <RouterLink :to="{ name: 'circuits', params: { id } }">Look at the circuits</RouterLink>
      </p>
      <template v-else>
        <section class="sheet takes" aria-label="What it takes">
          <table>
            <thead>
              <tr>
                <th scope="col"><span class="visually-hidden">Figure</span></th>
                <th scope="col">{{ SAID[wants.school] }}</th>
                <th v-if="other" scope="col">{{ otherSaid }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="row in figures" :key="row.title">
                <th scope="row">{{ row.title }}</th>
                <td v-for="(column, at) in columns" :key="at">{{ row.of(column) }}</td>
              </tr>
              <tr>
                <th scope="row">To look at</th>
                <td v-for="(column, at) in columns" :key="at">
                  <template v-if="column.bill">
                    <p v-for="row in column.bill.findings" :key="row.title"><VerdictMark :verdict="row.severity" /> {{ row.title }}</p>
                    <VerdictMark v-if="!column.bill.findings.length" verdict="fine" />
                  </template>
                  <template v-else>Sizing it…</template>
                </td>
              </tr>
            </tbody>
          </table>
          <div class="beside">
            <p class="compare">
              Compare with
              <AButton
                v-for="row in alternatives"
                :key="row.said"
                size="small"
                :loading="comparing === row.said"
                :disabled="other !== null && otherSaid === row.said"
                @click="compare(row.said, row.wants)"
              >
                {{ row.said }}
              </AButton>
            </p>
            <p v-if="draft.beside.length">
              <b>Beside the wiring, and proposed:</b> {{ draft.beside.join(', ') }}. Fuses and their studs are live.
            </p>
            <h3>If one fuse opens</h3>
            <p v-for="row in draft.darkest" :key="row.fuse"><b>{{ row.fuse }}</b> takes {{ row.loads.join(', ') }} along.</p>
          </div>
        </section>

        <ol class="steps" aria-label="Functions in the order of the work">
          <li v-for="step in draft.steps" :key="step.id" class="sheet" :class="{ off: step.left_out }">
            <h2>
              <label>
                <input v-if="!step.problem" type="checkbox" :checked="!step.left_out" @change="take(step.id, ($event.target as HTMLInputElement).checked)" />
                {{ step.title }}
              </label>
            </h2>
            <p class="why">{{ step.why }}</p>
            <p v-if="step.problem" class="refusal">
              <b>Not yet: {{ step.branches.map((row) => row.load).join(', ') }}.</b> {{ step.problem }}
            </p>
            <p v-if="step.proposed.length" class="proposed">
              <b>Not in your list, and proposed:</b> {{ step.proposed.join('; ') }}.
            </p>
            <table v-if="step.branches.length && !step.left_out && !step.problem" class="branches">
              <thead>
                <tr>
                  <th scope="col">Load</th>
                  <th scope="col">Behind</th>
                  <th scope="col">Worked by</th>
                  <th scope="col">Relay</th>
                  <th scope="col">Live from</th>
                  <th scope="col" class="figure">Own wire</th>
                </tr>
              </thead>
              <tbody>
                <template v-for="row in step.branches" :key="row.load">
                <tr
                  :draggable="row.at !== ''"
                  :class="{ dragged: dragged?.id === row.id }"
                  @dragstart="drag(row)"
                  @dragend="dragged = null"
                >
                  <td>{{ row.load }}</td>
                  <td
                    :class="{ accepts: canTake(row.at) }"
                    @dragover="canTake(row.at) && $event.preventDefault()"
                    @drop.prevent="put(dragged, row.at)"
                  >
                    {{ row.fuse || '–' }}
                    <span v-if="isMoved(row)" class="moved">put there by you</span>
                    <button
                      type="button"
                      class="plain why-here no-print"
                      :aria-expanded="asking === `${step.id} ${row.load}`"
                      :aria-label="`Why ${row.load} is there`"
                      @click="asking = asking === `${step.id} ${row.load}` ? '' : `${step.id} ${row.load}`"
                    >
                      why here?
                    </button>
                  </td>
                  <td>{{ row.worked_by.join(', ') || '–' }}</td>
                  <td>{{ row.relay || '–' }}</td>
                  <td>{{ row.key }}</td>
                  <td class="figure">
                    {{ fixed(row.length_m, 1) }} m<template v-if="draft.bill?.wires[row.id]"> of {{ draft.bill.wires[row.id] }}</template>
                  </td>
                </tr>
                <tr v-if="asking === `${step.id} ${row.load}`">
                  <td colspan="6" class="answer">
                    <p role="status">{{ row.why }}</p>
                    <label v-if="places(row).length" class="no-print">
                      Put it behind
                      <select class="field" value="" @change="put(row, ($event.target as HTMLSelectElement).value)">
                        <option value="">as it is</option>
                        <option v-for="guard in places(row)" :key="guard.at" :value="guard.at">
                          {{ guard.name }}{{ guard.holds.length ? `, with ${guard.holds.join(', ')}` : '' }}
                        </option>
                      </select>
                    </label>
                    <button v-if="isMoved(row)" type="button" class="plain no-print" @click="putBack(row)">
                      put it back where the draft had it
                    </button>
                  </td>
                </tr>
                </template>
              </tbody>
            </table>
          </li>
        </ol>
        <aside v-if="dragged" class="dock sheet" aria-label="Drop it here">
          <b>{{ dragged.load }} behind</b>
          <span
            v-for="guard in places(dragged)"
            :key="guard.at"
            :class="guard.holds.length ? 'shared' : 'free'"
            @dragover.prevent
            @drop.prevent="put(dragged, guard.at)"
          >
            {{ guard.name }}
          </span>
        </aside>
        <footer class="no-print">
          <AButton type="primary" :disabled="!written.length" @click="write">
            Write {{ written.length }} {{ written.length === 1 ? 'function' : 'functions' }} for {{ loads }} loads
          </AButton>
          <span v-if="refusedSteps" class="quiet">{{ refusedSteps }} cannot be written yet and stay in the list.</span>
        </footer>
      </template>
    </div>
  </section>
</template>

<style scoped>
.draft {
  display: flex;
  height: 100%;
  flex-direction: column;
}

.body {
  min-height: 0;
  flex: 1;
  overflow-y: auto;
  padding: 10px 16px 0;
}

header p {
  max-width: 90ch;
}

.asks {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  margin: 8px 0 12px;
}

.alive {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin: 0;
  padding: 2px 10px 4px;
  border: 1px solid color-mix(in srgb, var(--quiet) 40%, transparent);
  border-radius: 3px;
}

.alive legend {
  width: auto;
  margin: 0;
  padding: 0 5px;
  border: 0;
  color: var(--quiet);
  font-size: inherit;
  line-height: 1.2;
}

.moved {
  color: var(--quiet);
  font-size: 12px;
}

tr[draggable='true'] td:first-child {
  cursor: grab;
}

.dragged {
  opacity: 0.55;
}

.accepts {
  outline: 1px dashed var(--ink);
  outline-offset: -3px;
}

.dock {
  position: sticky;
  z-index: 2;
  bottom: 44px;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: center;
  padding: 8px 12px;
}

.dock span {
  padding: 3px 9px;
  border: 1px solid var(--rule);
  border-radius: 3px;
}

.dock .free {
  border: 1px dashed var(--quiet);
}

.answer p {
  margin: 0 0 4px;
}

.answer label {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  margin-right: 12px;
}

.answer select {
  max-width: 46ch;
}

.asks label {
  display: flex;
  gap: 6px;
  align-items: center;
}

.asks input,
.asks select {
  height: 26px;
  padding: 0 5px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.asks input[type='number'] {
  width: 60px;
}

.takes {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: start;
  padding: 6px 12px 10px;
}

.takes table {
  width: auto;
  max-width: 100%;
}

.beside {
  min-width: 34ch;
  max-width: 60ch;
  flex: 1;
}

.beside p {
  margin: 0 0 3px;
}

.beside .compare {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}

.branches {
  table-layout: fixed;
}

.why-here {
  font-size: 12px;
}

.answer {
  color: var(--quiet);
}

.branches th:nth-last-child(2) {
  width: 92px;
}

.branches th:last-child {
  width: 132px;
}

.takes th[scope='row'] {
  padding-right: 16px;
  color: var(--quiet);
  font-weight: 400;
  text-align: left;
  vertical-align: top;
}

.takes td p {
  margin: 0 0 2px;
}

.steps {
  display: flex;
  flex-direction: column;
  gap: 8px;
  margin: 10px 0;
  padding: 0;
  list-style: none;
}

.steps li {
  padding: 6px 12px 8px;
}

.steps h2 label {
  display: flex;
  gap: 8px;
  align-items: center;
}

.why,
.proposed {
  margin: 0 0 4px 22px;
}

.why {
  color: var(--quiet);
}

.off {
  opacity: 0.75;
}

footer {
  position: sticky;
  bottom: 0;
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 8px 0;
  background: var(--paper);
}
</style>
