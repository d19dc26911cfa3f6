<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'

import { answered, type BuildView, client, Refused, type Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { fixed, typedNumber } from '@/format'

/** A change that is weighed before deciding, and what else it changes. */
const props = defineProps<{ build: BuildView; rules: Schemas['RulesView'] }>()
const id = useBuildId()
const { edit } = useEdits(id)

type Question = Schemas['WhatIfRequest']['question']
const QUESTIONS: Record<Question, string> = {
  'lamps to LED': 'all lamps become LED',
  'battery elsewhere': 'the battery sits elsewhere',
  'a reel used up': 'a reel is used up',
  'a load takes': 'a load takes another current',
  hotter: 'it is hotter everywhere',
  'another school': 'drop is judged another way',
}
const asked = reactive({ question: 'lamps to LED' as Question, part: '', place: '', size: '', amount: '', school: '' })
const loads = computed(() => props.build.parts.filter((part) => part.kind === 'load' && part.circuit))
const sizes = computed(() => props.rules.reels.filter((row) => row.on_shelf))
const answer = ref<Schemas['WhatIfAnswer'] | null>(null)
const refused = ref('')
const asking = ref(false)

watch(
  () => [asked.question, asked.part, asked.place, asked.size, asked.amount, asked.school, props.build.revision],
  () => {
    answer.value = null
    refused.value = ''
  },
)

async function ask(): Promise<void> {
  asking.value = true
  refused.value = ''
  try {
    answer.value = await answered(
      client.POST('/api/builds/{build_id}/what-if', {
        params: { path: { build_id: id.value } },
        body: {
          question: asked.question,
          part: asked.part || null,
          place: asked.place || null,
          size: asked.size || null,
          amount: typedNumber(asked.amount),
          school: asked.school || null,
        },
      }),
    )
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = problem.message
  } finally {
    asking.value = false
  }
}

const lists = computed(() =>
  answer.value
    ? [
        { title: 'Wires', rows: answer.value.wires },
        { title: 'Fuses', rows: answer.value.fuses },
        { title: 'Lost on the way', rows: answer.value.drops },
      ].filter((list) => list.rows.length)
    : [],
)
const SHOWN = 12
</script>

<template>
  <section class="sheet" aria-label="What if?">
    <h2>What if…</h2>
    <form @submit.prevent="ask">
      <select v-model="asked.question" aria-label="Question">
        <option v-for="(said, question) in QUESTIONS" :key="question" :value="question">{{ said }}</option>
      </select>
      <select v-if="asked.question === 'battery elsewhere'" v-model="asked.place" aria-label="Place">
        <option value="" disabled>at…</option>
        <option v-for="place in build.places" :key="place.id" :value="place.id">{{ place.name }}</option>
      </select>
      <select v-if="asked.question === 'a reel used up'" v-model="asked.size" aria-label="Size">
        <option value="" disabled>which…</option>
        <option v-for="row in sizes" :key="row.size">{{ row.size }}</option>
      </select>
      <select v-if="asked.question === 'a load takes'" v-model="asked.part" aria-label="Load">
        <option value="" disabled>which…</option>
        <option v-for="load in loads" :key="load.id" :value="load.id">{{ load.name }}, {{ fixed(load.rated_a, 1) }} A</option>
      </select>
      <select v-if="asked.question === 'another school'" v-model="asked.school" aria-label="School">
        <option value="" disabled>how…</option>
        <option v-for="row in rules.schools" :key="row.name">{{ row.name }}</option>
      </select>
      <label v-if="asked.question === 'a load takes' || asked.question === 'hotter'">
        <input v-model="asked.amount" inputmode="decimal" :aria-label="asked.question === 'hotter' ? 'Degrees' : 'Amps'" />
        {{ asked.question === 'hotter' ? '°C' : 'A' }}
      </label>
      <AButton type="primary" size="small" html-type="submit" :loading="asking">What would change?</AButton>
    </form>
    <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
    <div v-if="answer" role="status">
      <p>
        <b>{{ answer.label }}:</b>
        copper {{ fixed(answer.copper_kg_before, 1) }} → {{ fixed(answer.copper_kg_after, 1) }} kg, sizes
        {{ answer.reels_before }} → {{ answer.reels_after }}, {{ answer.wires.length }}
        {{ answer.wires.length === 1 ? 'wire' : 'wires' }} and {{ answer.fuses.length }}
        {{ answer.fuses.length === 1 ? 'fuse' : 'fuses' }} change.
        <AButton size="small" @click="edit(answer.label, answer.operations)">Do it</AButton>
      </p>
      <p v-if="answer.findings_gone.length"><b>No longer to look at:</b> {{ answer.findings_gone.join('; ') }}.</p>
      <p v-if="answer.findings_new.length"><b>New to look at:</b> {{ answer.findings_new.join('; ') }}.</p>
      <div class="lists">
        <div v-for="list in lists" :key="list.title">
        <h3>{{ list.title }}</h3>
        <table>
          <tbody>
            <tr v-for="row in list.rows.slice(0, SHOWN)" :key="row.name">
              <td>{{ row.name }}</td>
              <td class="figure">{{ row.before }}</td>
              <td aria-hidden="true">→</td>
              <td class="figure">{{ row.after }}</td>
            </tr>
            <tr v-if="list.rows.length > SHOWN">
              <td colspan="4" class="quiet">and {{ list.rows.length - SHOWN }} more</td>
            </tr>
          </tbody>
        </table>
        </div>
      </div>
    </div>
    <p v-else-if="!refused" class="quiet">Nothing is changed by asking.</p>
  </section>
</template>

<style scoped>
section {
  padding: 10px 14px;
}

form {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 6px 0 8px;
}

.lists {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 26px;
  align-items: start;
}

.lists table {
  width: auto;
}

input {
  width: 70px;
  text-align: right;
}

input,
select {
  height: 26px;
  max-width: 230px;
  padding: 0 5px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
</style>
