<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import type { BuildView } from '@/api/client'
import { useBuildId, useFaultKinds, useFaultOthers } from '@/api/queries'
import { fixed } from '@/format'
import { useLive } from '@/stores/live'

/** Faults put in by hand, or dealt blind and to be found. */
const props = defineProps<{ build: BuildView; chosen: string | null }>()

const live = useLive()
const id = useBuildId()
const { data: kinds } = useFaultKinds(id)
const kind = ref('')
const of = ref('')
const other = ref('')
const ohm = ref<number>()
const { data: others } = useFaultOthers(id, kind, of)

const row = computed(() => kinds.value?.find((known) => known.kind === kind.value))
watch(kind, () => {
  of.value = row.value?.fits.some((thing) => thing.id === props.chosen) ? props.chosen! : ''
  other.value = ''
  ohm.value = row.value?.takes_ohm ?? undefined
})
watch(others, (rows) => (other.value = rows?.[0]?.id ?? ''))

const faults = computed(() => live.session?.faults ?? [])
const blind = computed(() => faults.value.some((fault) => fault.blind))
const last = computed(() => live.session?.guesses.at(-1))
const score = computed(() => ({ right: live.session?.guesses.filter((guess) => guess.right).length ?? 0, of: live.session?.guesses.length ?? 0 }))
const guess = ref('')
const unknown = ref('')
const things = computed(
  () =>
    new Map([
      ...props.build.parts.map((part) => [part.name, part.id] as const),
      ...props.build.wires.map((wire) => [wire.label, wire.id] as const),
    ]),
)

function putIn(): void {
  void live.do({
    do: 'fault',
    fault: {
      kind: kind.value,
      of: of.value,
      ...(other.value ? { other: other.value } : {}),
      ...(ohm.value && row.value?.takes_ohm ? { ohm: ohm.value } : {}),
    },
  })
}

function guessed(): void {
  const found = things.value.get(guess.value) ?? [...things.value].find(([name]) => name.toLowerCase() === guess.value.toLowerCase())?.[1]
  unknown.value = found ? '' : guess.value
  if (found) void live.guess(found).then(() => (guess.value = ''))
}
</script>

<template>
  <section aria-label="Faults">
    <h3>Faults in the car</h3>
    <p v-if="faults.length === 0" class="quiet">None. Put one in to see what it does, or be given one to find.</p>
    <ul v-else>
      <li v-for="fault in faults" :key="fault.id">
        <span>{{ fault.blind ? 'One dealt, not yet found' : fault.words }}</span>
        <button v-if="!fault.blind" class="plain" :aria-label="`Mend ${fault.words}`" @click="live.do({ do: 'mend', of: fault.id })">mend</button>
      </li>
    </ul>
    <form v-if="blind" class="guess" @submit.prevent="guessed">
      <input v-model="guess" class="field" list="bench-things" aria-label="The wire or part that has the fault" placeholder="wire or part that has it" />
      <AButton html-type="submit" size="small" type="primary" :disabled="!guess">Guess</AButton>
      <button type="button" class="plain" @click="live.guess(null)">give up</button>
      <datalist id="bench-things"><option v-for="[name] in things" :key="name" :value="name"></option></datalist>
    </form>
    <p v-if="unknown" class="refusal" role="alert">No wire or part is called “{{ unknown }}”.</p>
    <p v-if="last" class="told" role="status">
      <b>{{ last.right ? '✓ Right' : last.was ? 'Given up' : '✗ Not there' }}</b><template v-if="last.was">: {{ last.was }}</template>.
      <RouterLink v-if="last.circuit" :to="{ name: 'circuits', params: { id, circuit: last.circuit } }">See what it does to the fall line</RouterLink>
      {{ last.tests }} tests, about {{ fixed(last.minutes, 0) }} minutes by hand. {{ score.right }} of {{ score.of }} right so far.
    </p>
    <p class="deal">
      Give me a fault:
      <AButton v-for="hard in ['easy', 'fair', 'nasty'] as const" :key="hard" size="small" @click="live.deal(hard)">{{ hard }}</AButton>
    </p>
    <details>
      <summary>Put one in by hand</summary>
      <form @submit.prevent="putIn">
        <select v-model="kind" class="field" aria-label="Kind of fault">
          <option value="" disabled>what is wrong</option>
          <option v-for="known in kinds?.filter((known) => known.fits.length)" :key="known.kind" :value="known.kind">{{ known.words }}</option>
        </select>
        <select v-if="row" v-model="of" class="field" aria-label="Where it is">
          <option value="" disabled>where</option>
          <option v-for="thing in row.fits" :key="thing.id" :value="thing.id">{{ thing.name }}</option>
        </select>
        <select v-if="others?.length" v-model="other" class="field" aria-label="With what">
          <option v-for="thing in others" :key="thing.id" :value="thing.id">{{ thing.name }}</option>
        </select>
        <label v-if="row?.takes_ohm">
          <input v-model.number="ohm" class="field" type="number" min="0.0001" step="any" aria-label="Resistance" /> Ω
        </label>
        <AButton html-type="submit" size="small" :disabled="!kind || !of">Put it in</AButton>
      </form>
    </details>
    <button v-if="faults.length" class="plain" @click="live.do({ do: 'mend', of: 'all' })">Mend everything</button>
  </section>
</template>

<style scoped>
h3 {
  margin: 10px 0 4px;
  color: var(--quiet);
}

ul {
  margin: 0 0 6px;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  gap: 8px;
  justify-content: space-between;
  padding: 3px 0;
  border-bottom: 1px solid var(--rule);
}

form {
  display: grid;
  gap: 6px;
  margin: 6px 0;
}

.guess {
  grid-template-columns: 1fr auto auto;
  align-items: center;
}

.field {
  min-width: 0;
  height: 30px;
}

label .field {
  width: 90px;
}

.deal {
  display: flex;
  gap: 6px;
  align-items: center;
  margin: 6px 0;
}

.told {
  margin: 4px 0;
}

summary {
  color: var(--copper);
  cursor: pointer;
}
</style>
