<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { useBuildId, useProofRecord } from '@/api/queries'
import PhotoStrip from '@/components/PhotoStrip.vue'
import ProofRecord from '@/components/ProofRecord.vue'
import { against, bandWords, figure, proofOf, type Reading, readAs, type State, type Step } from '@/proving'
import { type Action, useLive } from '@/stores/live'
import { useProofs } from '@/stores/proofs'

/** One step: caution, do, see, measure, verdict. */
const props = defineProps<{ step: Step; number: number; of: number; state: State | undefined; amiss: string[] }>()
const emit = defineEmits<{ done: [passed: boolean] }>()

const id = useBuildId()
const router = useRouter()
const live = useLive()
const proofs = useProofs()
const kept = computed(() => props.state?.kept)
const { data: record } = useProofRecord(
  id,
  computed(() => props.step),
  kept,
)
const trouble = ref('')
const noting = ref(false)

const draft = computed(() => proofs.draft(id.value, props.step.id))
watch(draft, () => proofs.keep(id.value, props.step.id), { deep: true })
watch(
  () => props.step.id,
  () => {
    trouble.value = ''
    noting.value = draft.value.note !== ''
  },
  { immediate: true },
)

const looks = computed(() => props.step.looks.filter((look) => !look.waits))
const absent = computed(() => props.step.looks.filter((look) => look.waits))
const verdicts = computed(() => new Map(props.step.readings.map((row) => [row.id, against(typed(row), row)])))
const wrong = computed(() => props.step.readings.filter((row) => /^too|wrong/.test(verdicts.value.get(row.id) ?? '')))
const seen = computed(() => looks.value.filter((look) => draft.value.looks[look.id]))
const outside = computed(() => wrong.value.length + seen.value.length)

/** What none of the readings can tell, where that is the same for all: said once. */
const tells = computed(() => {
  const [first, ...others] = props.step.readings.map((row) => row.tells)
  return others.length && others.every((row) => row === first) ? first : ''
})

function typed(row: Reading): string {
  return draft.value.readings[row.id] ?? ''
}

/** By how much a reading is off, in words. */
function off(row: Reading): string {
  const value = readAs(typed(row), row.unit)
  const verdict = verdicts.value.get(row.id) ?? ''
  if (typeof value !== 'number' || !verdict.startsWith('too')) return verdict
  const read = row.unit === 'A' ? Math.abs(value) : value
  const by = verdict === 'too low' ? row.low - read : read - (row.high ?? 0)
  return `${verdict} by ${figure(by, row.unit)}`
}

async function finish(passed: boolean): Promise<void> {
  const unread = props.step.readings.find((row) => verdicts.value.get(row.id) === 'not a reading')
  if (unread) {
    trouble.value = `“${typed(unread)}” at ${unread.name} is no reading. Type a figure, with m or k before its unit if need be.`
    return
  }
  trouble.value = ''
  const { step } = props
  const sent = proofs.record(id.value, proofOf(step, draft.value, passed))
  proofs.clear(id.value, step.id)
  await sent
  if (!proofs.refused[step.id]) emit('done', passed)
}

watch(draft, () => delete proofs.refused[props.step.id], { deep: true })

function onBench(): void {
  const { key, switches, values } = props.step
  const rows: Action[] = [
    ...(key ? [{ do: 'key', to: key } as Action] : []),
    ...Object.entries(switches).map(([of, to]): Action => ({ do: 'switch', of, to })),
    ...Object.entries(values).map(([of, to]): Action => ({ do: 'value', of, to })),
  ]
  void live.clear().then(() => live.do(...rows))
  void router.push({ name: 'bench', params: { id: id.value } })
}

function toNext(event: KeyboardEvent): void {
  const fields = [...document.querySelectorAll<HTMLInputElement>('.step input.reading')]
  const next = fields[fields.indexOf(event.target as HTMLInputElement) + 1]
  if (next) next.focus()
}
</script>

<template>
  <section class="step" :aria-label="step.title" @keydown.ctrl.enter="finish(outside === 0)">
    <p class="where quiet">
      Step {{ number }} of {{ of }}<template v-if="step.circuit_name"> · {{ step.circuit_name }}</template
      ><template v-if="step.place"> · {{ step.place }}</template> · about {{ Math.max(1, Math.round(step.minutes)) }} min
    </p>
    <div v-if="step.cautions.length" class="caution" role="note" aria-label="Cautions">
      <p v-for="caution in step.cautions" :key="caution"><span aria-hidden="true">▲</span> {{ caution }}</p>
    </div>
    <h1>{{ step.title }}</h1>
    <p v-if="step.how" class="how">{{ step.how }}</p>
    <p v-if="state?.again && state.passed" class="again" role="status">▲ Prove it again. {{ state.again }}</p>
    <p v-if="step.waits_for.length" class="again" role="status">
      ‖ Waits for {{ step.waits_for.join(', ') }}, not there yet: no fault.
    </p>
    <dl v-if="step.goes_in.length || step.stays_out.length" class="fitted">
      <template v-if="step.goes_in.length">
        <dt>In</dt>
        <dd>{{ step.goes_in.join(', ') }}</dd>
      </template>
      <template v-if="step.stays_out.length">
        <dt>Out</dt>
        <dd>{{ step.stays_out.join(', ') }}</dd>
      </template>
    </dl>

    <template v-if="step.operate.length">
      <h2>Do</h2>
      <ul class="large">
        <li v-for="row in step.operate" :key="row.part">
          <template v-if="row.jumper">Jumper across {{ row.name }}, as {{ row.position }}</template>
          <template v-else>
            {{ row.said }}<template v-if="row.held">, and hold it</template>
          </template>
        </li>
      </ul>
    </template>

    <template v-if="looks.length">
      <h2>See</h2>
      <ul class="looks">
        <li v-for="look in looks" :key="look.id" :class="{ amiss: draft.looks[look.id] }">
          <span class="name">{{ look.name }}<span v-if="look.place && look.place !== step.place" class="quiet"> · {{ look.place }}</span></span>
          <select v-model="draft.looks[look.id]" :aria-label="`What ${look.name} does`">
            <option :value="undefined">{{ look.right }}</option>
            <option v-for="word in amiss" :key="word" :value="word">{{ word }}</option>
          </select>
        </li>
      </ul>
    </template>
    <p v-if="absent.length" class="quiet">
      Not there yet, and no fault: {{ absent.map((look) => look.name).join(', ') }}.
    </p>

    <template v-if="step.readings.length">
      <h2>Measure</h2>
      <p v-if="tells" class="quiet tells">{{ tells }}</p>
      <div v-for="row in step.readings" :key="row.id" class="measure" :class="verdicts.get(row.id)?.split(' ')[0]">
        <div class="what">
          <b>{{ row.name }}</b>
          <span class="quiet">{{ row.where }}</span>
          <span v-if="row.tells && !tells" class="quiet tells">{{ row.tells }}</span>
        </div>
        <div class="band">
          <b>{{ bandWords(row) }}</b>
          <span v-if="row.expected !== null && row.low > 0" class="quiet">{{ figure(row.expected, row.unit) }} as designed</span>
        </div>
        <div class="typed">
          <input
            v-model="draft.readings[row.id]"
            class="reading"
            inputmode="decimal"
            autocomplete="off"
            :aria-label="`${row.name}, in ${row.unit}`"
            placeholder="–"
            @keydown.enter.exact.prevent="toNext"
          />
          <span class="unit">{{ row.unit }}</span>
          <button v-if="row.unit === 'Ω'" type="button" class="ol" title="The meter shows that it is open" @click="draft.readings[row.id] = 'OL'">OL</button>
        </div>
        <p v-if="verdicts.get(row.id)" class="verdict" role="status">
          {{ off(row) }}<template v-if="verdicts.get(row.id) === 'too low' && row.too_low">. {{ row.too_low }}</template
          ><template v-if="verdicts.get(row.id) === 'too high' && row.too_high">. {{ row.too_high }}</template>
        </p>
      </div>
    </template>

    <p v-if="proofs.refused[step.id] || trouble" class="refusal" role="alert">{{ trouble || proofs.refused[step.id] }}</p>
    <div class="buttons">
      <AButton danger size="large" @click="finish(false)">Not right</AButton>
      <AButton type="primary" size="large" class="pass" @click="finish(true)">Passed</AButton>
    </div>
    <p class="more">
      <button v-if="!noting" type="button" @click="noting = true">Write a note</button>
      <RouterLink v-if="state && !state.passed" :to="{ name: 'find-a-fault', params: { id } }">Find the fault</RouterLink>
      <button v-if="step.key" type="button" @click="onBench">Try it on the bench</button>
      <span v-if="outside" class="quiet">
        {{ outside }} {{ outside === 1 ? 'thing is' : 'things are' }} not as it should be. You decide; it is kept with what was expected.
      </span>
    </p>
    <label v-if="noting" class="note">
      Note
      <textarea v-model="draft.note" maxlength="500" rows="2" placeholder="what you saw, if anything" />
    </label>
    <PhotoStrip collection="proofs" :identity="step.id" />
    <ProofRecord :proofs="record ?? []" />
  </section>
</template>

<style scoped>
.step {
  max-width: 860px;
  padding: 12px 20px 24px;
}

.where {
  margin: 0 0 6px;
}

h1 {
  margin: 8px 0 4px;
  font-size: 28px;
  line-height: 1.15;
}

h2 {
  margin: 14px 0 4px;
}

.how {
  font-size: 17px;
}

.caution {
  padding: 6px 12px 2px;
  border-left: 4px solid var(--amber);
  background: var(--sheet);
}

.caution p {
  margin: 0 0 4px;
  color: var(--amber-ink);
}

.again {
  color: var(--ochre);
}

.fitted {
  display: grid;
  gap: 2px 12px;
  grid-template-columns: auto 1fr;
  margin: 6px 0;
}

.fitted dt {
  font-weight: 600;
}

.fitted dd {
  margin: 0;
}

.large {
  padding-left: 20px;
  margin: 0;
  font-size: 19px;
}

.looks {
  padding: 0;
  margin: 0;
  list-style: none;
}

.looks li {
  display: flex;
  gap: 10px;
  align-items: center;
  justify-content: space-between;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
  font-size: 17px;
}

.looks .amiss {
  color: var(--brick);
}

select,
.reading,
textarea {
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

select {
  width: 190px;
  min-height: 38px;
  padding: 0 6px;
}

.measure {
  display: grid;
  gap: 2px 16px;
  grid-template-columns: minmax(0, 1fr) 190px 190px;
  align-items: center;
  padding: 7px 0;
  border-bottom: 1px solid var(--rule);
}

.what b,
.what span,
.band b,
.band span {
  display: block;
}

.tells {
  font-style: italic;
}

.band b {
  font-family: var(--heading);
  font-size: 22px;
  font-weight: 600;
  line-height: 1.1;
}

.band,
.typed {
  text-align: right;
}

.typed {
  display: flex;
  gap: 6px;
  align-items: center;
  justify-content: flex-end;
}

.reading {
  width: 104px;
  min-height: 44px;
  padding: 2px 8px;
  font-family: var(--heading);
  font-size: 24px;
  text-align: right;
}

.unit {
  width: 16px;
  font-family: var(--heading);
  font-size: 18px;
}

.ol {
  min-width: 38px;
  min-height: 44px;
  border: 1px solid var(--copper);
  border-radius: 3px;
  background: none;
  color: var(--copper);
  cursor: pointer;
}

.verdict {
  grid-column: 1 / -1;
  margin: 0;
}

.in .verdict {
  color: var(--moss);
}

.too .verdict,
.not .verdict {
  color: var(--brick);
}

.too .reading,
.not .reading {
  border-color: var(--brick);
}

.buttons {
  display: flex;
  gap: 12px;
  margin: 16px 0 8px;
}

.buttons > * {
  min-width: 150px;
}

.more {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
}

.more button {
  padding: 0;
  border: 0;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
}

.note textarea {
  display: block;
  width: min(520px, 100%);
  padding: 4px 8px;
}

@container (max-width: 640px) {
  .measure {
    grid-template-columns: minmax(0, 1fr) auto;
  }

  .what {
    grid-column: 1 / -1;
  }

  .band {
    text-align: left;
  }
}

@media (max-width: 700px) {
  .step {
    padding: 10px 14px 110px;
  }

  h1 {
    font-size: 30px;
  }

  .measure {
    grid-template-columns: minmax(0, 1fr) auto;
    padding: 10px 12px;
    border: 1px solid var(--rule);
    margin-bottom: 8px;
    background: var(--sheet);
  }

  .what {
    grid-column: 1 / -1;
  }

  .band {
    text-align: left;
  }

  .band b {
    font-size: 30px;
  }

  .reading {
    width: 118px;
    min-height: 56px;
    font-size: 32px;
  }

  .looks li {
    flex-wrap: wrap;
  }

  select {
    width: 100%;
    min-height: 44px;
  }

  .more button {
    min-height: 44px;
  }

  .buttons {
    position: fixed;
    z-index: 5;
    right: 0;
    bottom: 0;
    left: 0;
    padding: 10px 14px;
    border-top: 1px solid var(--rule);
    margin: 0;
    background: var(--paper);
  }

  .buttons > * {
    height: 60px;
    min-width: 0;
    flex: 1;
    font-size: 22px;
  }
}
</style>
