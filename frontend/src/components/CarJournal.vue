<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answered, client, Refused, type Schemas } from '@/api/client'
import { useBuildId, useJournal } from '@/api/queries'
import { typedNumber } from '@/format'
import { dayInWords, doneIn } from '@/journal'
import { stages } from '@/stages'

/** What was done, by evening, written by itself; what waits, and what can be done in an hour. */
const id = useBuildId()
const queries = useQueryClient()
const { data: journal, error } = useJournal(id)

const KEPT = `oilstone.journal.${id.value}`
const words = ref(localStorage.getItem(KEPT) ?? '')
const minutes = ref('')
const stage = ref('')
const wrong = ref('')
const SHOWN = 8

const hours = computed(() => Object.entries(journal.value?.minutes ?? {}).map(([name, spent]) => ({ name: titleOf(name), hours: (spent / 60).toFixed(1) })))
const titleOf = (name: string) => stages.find((row) => row.name === name)?.title ?? 'no stage'

function type(event: Event): void {
  words.value = (event.target as HTMLTextAreaElement).value
  localStorage.setItem(KEPT, words.value)
}

async function ask(request: Promise<Schemas['JournalView']>): Promise<boolean> {
  wrong.value = ''
  try {
    await request
    await queries.invalidateQueries({ queryKey: ['journal', id.value] })
    return true
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    wrong.value = problem.message
    return false
  }
}

async function write(): Promise<void> {
  const spent = minutes.value.trim() ? typedNumber(minutes.value) : 0
  if (spent === null || spent < 0 || spent > 1440) {
    wrong.value = `“${minutes.value}” is no number of minutes.`
    return
  }
  const body = { words: words.value, stage: stage.value, minutes: Math.round(spent) }
  const done = await ask(answered(client.POST('/api/builds/{build_id}/journal', { params: { path: { build_id: id.value } }, body })))
  if (!done) return
  words.value = minutes.value = ''
  localStorage.removeItem(KEPT)
}

const drop = (line: number) =>
  ask(answered(client.DELETE('/api/builds/{build_id}/journal/{line_id}', { params: { path: { build_id: id.value, line_id: line } } })))
</script>

<template>
  <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
  <p v-else-if="!journal" class="empty">Reading the journal…</p>
  <div v-else class="columns">
    <section aria-label="Evenings">
      <article v-for="evening in journal.evenings" :key="evening.day" class="sheet">
        <h2>{{ dayInWords(evening.day) }}</h2>
        <ul>
          <li v-for="line in evening.lines" :key="line.id" class="line">
            {{ line.words }}
            <span class="quiet">{{ [line.stage ? titleOf(line.stage) : '', line.minutes ? `${line.minutes} min` : ''].filter(Boolean).join(', ') }}</span>
            <button class="plain" :aria-label="`Take out: ${line.words}`" @click="drop(line.id)">take out</button>
          </li>
          <li v-for="says in doneIn(evening, SHOWN)" :key="says">{{ says }}</li>
        </ul>
      </article>
      <p v-if="!journal.evenings.length" class="sheet empty">Nothing done yet. The journal writes itself: edits, wires that are cut, steps that are proved, photos.</p>
    </section>
    <aside>
      <section class="sheet" aria-label="Next">
        <h2>In the next hour</h2>
        <p v-if="journal.next">
          Make the {{ journal.next.wires }} wires of {{ journal.next.circuits.join(', ') }}: about {{ journal.next.minutes }} min.
          {{ journal.next.at_hand ? 'The wire for them is at hand.' : 'No reel for them is said to be at hand.' }}
          <RouterLink :to="{ name: 'make', params: { id } }">Make</RouterLink>
        </p>
        <p v-else class="quiet">Every wire is made.</p>
        <h3>What waits</h3>
        <ul>
          <li v-for="row in journal.waits" :key="row.view">
            <RouterLink :to="{ name: row.view, params: { id } }">{{ row.says }}</RouterLink>
          </li>
        </ul>
        <p v-if="!journal.waits.length" class="quiet">Nothing.</p>
      </section>
      <form class="sheet" aria-label="Write a line" @submit.prevent="write">
        <h2>Write a line</h2>
        <label>
          What was done, or is to be kept
          <textarea class="field" rows="3" maxlength="1000" :value="words" @input="type"></textarea>
        </label>
        <label>
          Stage
          <select v-model="stage" class="field">
            <option value="">none</option>
            <option v-for="row in stages" :key="row.name" :value="row.name">{{ row.title }}</option>
          </select>
        </label>
        <label>Minutes <input v-model="minutes" class="field short" inputmode="numeric" /></label>
        <p v-if="wrong" class="refusal" role="alert">{{ wrong }}</p>
        <AButton html-type="submit" size="small">Write it down</AButton>
      </form>
      <section v-if="hours.length" class="sheet" aria-label="Hours">
        <h2>Hours</h2>
        <p v-for="row in hours" :key="row.name">{{ row.name }}: {{ row.hours }} h</p>
      </section>
    </aside>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  gap: 12px;
  align-items: start;
  grid-template-columns: minmax(0, 1fr) 320px;
}

article,
aside > * {
  margin-bottom: 10px;
  padding: 8px 14px 10px;
}

ul {
  margin: 4px 0;
  padding-left: 18px;
}

.line {
  font-weight: 600;
}

.line .quiet,
.line .plain {
  font-weight: 400;
}

label {
  display: block;
  margin: 6px 0;
}

textarea {
  width: 100%;
  height: auto;
}

.short {
  width: 70px;
}

@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }

  aside {
    order: -1;
  }
}
</style>
