<script setup lang="ts">
import { computed } from 'vue'

import type { Answers, BuildView, Schemas } from '@/api/client'

/** One question of a recipe and its answer; the answer has the shape that the core takes. */
const props = defineProps<{ question: Schemas['QuestionView']; build: BuildView }>()
const answer = defineModel<Answers[string]>({ required: true })

type Thing = Schemas['ChosenPart']
const NEW = ' new'
const NONE = ' none'

const isThing = computed(() => ['load', 'switch', 'sender'].includes(props.question.kind))
const thing = computed(() => (answer.value ?? null) as Thing | null)
const parts = computed(() => props.build.parts)

/** What is there and may be the answer, as the core says, and what is chosen already. */
const there = computed(() => {
  const mine = [answer.value as Thing | Thing[] | string | null].flat()
  const may = new Set([...props.question.suits, ...mine.map((row) => (typeof row === 'string' ? row : row?.part))])
  return parts.value.filter((part) => may.has(part.id))
})
const fuses = computed(() => parts.value.filter((part) => part.kind === 'fuse'))
const chosen = computed(() => (thing.value === null ? NONE : (thing.value.part ?? NEW)))

function choose(value: string): void {
  if (value === NONE) answer.value = null
  else if (value === NEW) answer.value = fresh()
  else answer.value = { part: value }
}

function fresh(): Thing {
  const usual = props.question.usual as Thing | null
  return { row: props.question.rows[0], place: usual?.place ?? props.build.places[0]?.id }
}

function change(fields: Thing): void {
  answer.value = { ...thing.value, ...fields }
}

const list = computed(() => (Array.isArray(answer.value) ? (answer.value as Thing[]) : []))

/** The kinds to choose from, and the one that is asked for already, as in another build. */
const rowsFor = (asked?: string | null) => (asked && !props.question.rows.includes(asked) ? [asked, ...props.question.rows] : props.question.rows)

function changeRow(index: number, row: Thing | null): void {
  const rows = [...list.value]
  if (row) rows[index] = row
  else rows.splice(index, 1)
  answer.value = rows
}

const terminals = computed(() => (Array.isArray(answer.value) ? (answer.value as string[]).join(', ') : ''))
const id = computed(() => `question-${props.question.name}`)
</script>

<template>
  <div class="question">
    <label :for="id">{{ question.label }}</label>
    <div class="answer">
      <template v-if="isThing">
        <select :id="id" :value="chosen" @change="choose(($event.target as HTMLSelectElement).value)">
          <option v-if="question.optional" :value="NONE">none</option>
          <option :value="NEW">{{ question.kind === 'load' ? 'a new load' : 'a new one' }}</option>
          <option v-for="part in there" :key="part.id" :value="part.id">{{ part.name }}</option>
        </select>
        <template v-if="chosen === NEW && thing">
          <select
            v-if="rowsFor(thing.row).length > 1"
            :aria-label="`${question.label}: what it is`"
            :value="thing.row ?? question.rows[0]"
            @change="change({ row: ($event.target as HTMLSelectElement).value })"
          >
            <option v-for="row in rowsFor(thing.row)" :key="row" :value="row">{{ row }}</option>
          </select>
          <select
            :aria-label="`${question.label}: where`"
            :value="thing.place"
            @change="change({ place: ($event.target as HTMLSelectElement).value })"
          >
            <option v-for="place in build.places" :key="place.id" :value="place.id">{{ place.name }}</option>
          </select>
        </template>
      </template>
      <template v-else-if="question.kind === 'loads'">
        <div v-for="(row, index) in list" :key="index" class="row">
          <select
            :id="index === 0 ? id : undefined"
            :aria-label="`${question.label} ${index + 1}`"
            :value="row.part ?? NEW"
            @change="
              changeRow(
                index,
                ($event.target as HTMLSelectElement).value === NEW
                  ? { row: question.rows[0], place: build.places[0]?.id }
                  : { part: ($event.target as HTMLSelectElement).value },
              )
            "
          >
            <option :value="NEW">a new load</option>
            <option v-for="part in there" :key="part.id" :value="part.id">{{ part.name }}</option>
          </select>
          <template v-if="!row.part">
            <select
              :aria-label="`${question.label} ${index + 1}: what it is`"
              :value="row.row"
              @change="changeRow(index, { ...row, row: ($event.target as HTMLSelectElement).value })"
            >
              <option v-for="one in rowsFor(row.row)" :key="one" :value="one">{{ one }}</option>
            </select>
            <select
              :aria-label="`${question.label} ${index + 1}: where`"
              :value="row.place"
              @change="changeRow(index, { ...row, place: ($event.target as HTMLSelectElement).value })"
            >
              <option v-for="place in build.places" :key="place.id" :value="place.id">{{ place.name }}</option>
            </select>
          </template>
          <button type="button" :aria-label="`Leave out ${question.label} ${index + 1}`" @click="changeRow(index, null)">
            ✕
          </button>
        </div>
        <button type="button" class="more" @click="changeRow(list.length, { row: question.rows[0], place: build.places[0]?.id })">
          + one more
        </button>
      </template>
      <select v-else-if="question.kind === 'part'" :id="id" v-model="answer">
        <option v-if="question.optional" :value="null">none</option>
        <option v-for="part in there" :key="part.id" :value="part.id">{{ part.name }}</option>
      </select>
      <select v-else-if="question.kind === 'place'" :id="id" v-model="answer">
        <option v-for="place in build.places" :key="place.id" :value="place.id">{{ place.name }}</option>
      </select>
      <select v-else-if="question.kind === 'choice'" :id="id" v-model="answer">
        <option v-for="choice in question.choices" :key="choice" :value="choice">{{ choice }}</option>
      </select>
      <select v-else-if="question.kind === 'fuse'" :id="id" v-model="answer">
        <option :value="null">a free way</option>
        <option v-for="fuse in fuses" :key="fuse.id" :value="fuse.id">{{ fuse.name }}</option>
      </select>
      <input v-else-if="question.kind === 'flag'" :id="id" v-model="answer" type="checkbox" />
      <input v-else-if="question.kind === 'number'" :id="id" v-model.number="answer" type="number" step="any" />
      <input
        v-else-if="question.kind === 'terminals'"
        :id="id"
        :value="terminals"
        placeholder="panel.F1, panel.F9"
        @change="
          answer = ($event.target as HTMLInputElement).value
            .split(/[\s,]+/)
            .filter(Boolean)
        "
      />
      <textarea v-else-if="question.label.includes('one a line')" :id="id" v-model="answer as string" rows="4" />
      <input v-else :id="id" v-model="answer as string" type="text" />
      <small v-if="question.help" class="quiet">{{ question.help }}</small>
    </div>
  </div>
</template>

<style scoped>
.question {
  display: grid;
  gap: 8px;
  grid-template-columns: 150px 1fr;
  align-items: baseline;
}

.answer {
  display: flex;
  min-width: 0;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}

select,
input:not([type='checkbox']),
textarea {
  min-width: 0;
  max-width: 190px;
  height: 27px;
  padding: 0 5px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

textarea {
  width: 100%;
  max-width: none;
  height: auto;
  padding: 4px 6px;
}

button {
  border: 0;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
}

small {
  flex-basis: 100%;
}
</style>
