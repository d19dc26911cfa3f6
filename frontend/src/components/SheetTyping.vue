<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, nextTick, onMounted, ref } from 'vue'

import { useBuildId } from '@/api/queries'
import { against, bandWords, lineOf, proofOf, type Step } from '@/proving'
import { useProofs } from '@/stores/proofs'

/** A printed sheet typed back: one line a step, told as it is understood before it is kept. */
const props = defineProps<{ steps: Step[]; amiss: string[]; revision: number }>()

const id = useBuildId()
const proofs = useProofs()
const KEPT = computed(() => `oilstone-sheet-line-${id.value}`)

const text = ref(localStorage.getItem(KEPT.value) ?? '1 ')
const trouble = ref('')
const done = ref<{ number: number; step: Step; passed: boolean }[]>([])
const field = ref<HTMLInputElement>()

const line = computed(() => lineOf(text.value, props.steps, props.amiss))
const number = computed(() => (line.value.step ? props.steps.indexOf(line.value.step) + 1 : 0))
const asked = computed(() => line.value.step?.readings.filter((row) => !row.waits) ?? [])
const looks = computed(() => line.value.step?.looks.filter((row) => !row.waits) ?? [])
const outside = computed(() => asked.value.filter((row) => /^too/.test(against(line.value.readings[row.id] ?? '', row))))

function keep(): void {
  localStorage.setItem(KEPT.value, text.value)
  trouble.value = ''
}

/** Whether it passed: as it was said, or where every reading was typed and lies in its band. */
const passed = computed(() => {
  if (line.value.passed !== undefined) return line.value.passed
  const whole = asked.value.length > 0 && asked.value.every((row) => line.value.readings[row.id])
  return whole && outside.value.length === 0 ? true : undefined
})

async function record(): Promise<void> {
  const { step, problem } = line.value
  if (problem || !step) {
    trouble.value = problem || 'Begin with the number of a step.'
    return
  }
  if (passed.value === undefined) {
    trouble.value = 'End with ok or no: not every reading is there, or one lies outside its band.'
    return
  }
  done.value.unshift({ number: number.value, step, passed: passed.value })
  const said = { readings: line.value.readings, looks: line.value.looks, note: line.value.note }
  text.value = number.value < props.steps.length ? `${number.value + 1} ` : ''
  keep()
  await proofs.record(id.value, proofOf(step, said, done.value[0]!.passed))
  await nextTick()
  field.value?.focus()
}

onMounted(() => field.value?.focus())
</script>

<template>
  <section class="typing" aria-label="Type in a sheet">
    <h1>Type in a sheet</h1>
    <p class="quiet">
      The number of the step, its readings in the order of the sheet, <b>-</b> for one that was not taken, <b>ok</b> or
      <b>no</b>, what was seen, and a note after a comma: <b>72 12.3 - ok</b> or <b>73 no dim, hums</b>. Enter keeps it and
      goes on. Numbers are those of a sheet printed at revision {{ revision }}: compare the title.
    </p>
    <form @submit.prevent="record">
      <label for="sheet-line" class="visually-hidden">Step and what was read</label>
      <input id="sheet-line" ref="field" v-model="text" autocomplete="off" spellcheck="false" @input="keep" />
      <AButton type="primary" size="large" html-type="submit">Keep it</AButton>
    </form>
    <p v-if="trouble || line.problem" class="refusal" role="alert">{{ trouble || line.problem }}</p>
    <div v-if="line.step" class="told">
      <h2>{{ number }} · {{ line.step.title }}</h2>
      <table v-if="asked.length">
        <tbody>
          <tr v-for="row in asked" :key="row.id">
            <td>{{ row.name }}</td>
            <td class="quiet">{{ bandWords(row) }}</td>
            <td class="figure">{{ line.readings[row.id] ?? '' }}</td>
            <td :class="/^too/.test(against(line.readings[row.id] ?? '', row)) ? 'wrong' : 'quiet'">
              {{ against(line.readings[row.id] ?? '', row) }}
            </td>
          </tr>
        </tbody>
      </table>
      <p v-for="(row, at) in looks" :key="row.id">
        <span class="quiet">{{ at + 1 }}</span> {{ row.name }} {{ row.right }}<b v-if="line.looks[row.id]"
          >: {{ line.looks[row.id] }}</b
        >
      </p>
      <p v-if="line.note">{{ line.note }}</p>
      <p>
        <b v-if="passed === true" class="good">● passed</b><b v-else-if="passed === false" class="wrong">■ not right</b>
      </p>
    </div>
    <ol v-if="done.length" class="done" aria-label="Typed in">
      <li v-for="(row, at) in done" :key="at">
        {{ row.passed ? '●' : '■' }} {{ row.number }}
        <RouterLink :to="{ name: 'power-up', params: { id, step: row.step.id } }">{{ row.step.title }}</RouterLink>
        {{ row.passed ? 'passed' : 'not right' }}
      </li>
    </ol>
  </section>
</template>

<style scoped>
.typing {
  max-width: 760px;
  padding: 16px 20px;
}

h1 {
  margin: 0 0 4px;
  font-size: 24px;
}

h2 {
  margin: 14px 0 4px;
  font-size: 18px;
}

form {
  display: flex;
  gap: 8px;
}

form input {
  height: 44px;
  min-width: 0;
  flex: 1;
  padding: 0 12px;
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font-size: 20px;
}

table {
  width: 100%;
  border-collapse: collapse;
}

td {
  padding: 4px 8px 4px 0;
  border-top: 1px solid var(--rule);
}

.figure {
  text-align: right;
}

.wrong {
  color: var(--brick);
}

.good {
  color: var(--moss);
}

.done {
  padding: 0;
  margin: 20px 0 0;
  list-style: none;
}

.done li {
  padding: 4px 0;
  border-top: 1px solid var(--rule);
}
</style>
