<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, nextTick, onMounted, ref, watch } from 'vue'

import { answered, client, type Schemas } from '@/api/client'
import { useBuildId } from '@/api/queries'
import { typedNumber } from '@/format'

/**
 * When a channel is on, put together from words: what the module hears, and what joins them.
 * The sentence and the table are the core's; nothing is written before it is saved.
 */
const props = defineProps<{
  part: string
  channel: Schemas['ChannelLine']
  heard: Schemas['Heard'][]
  softest: number
  save: (when: string, limit_a: number | null, soft_s: number | null) => Promise<boolean>
}>()
const emit = defineEmits<{ close: [] }>()

const id = useBuildId()
const field = ref<HTMLTextAreaElement>()
const when = ref(props.channel.when)
const limit = ref(props.channel.limit_a === null ? '' : String(props.channel.limit_a))
const tried = ref<Schemas['Tried'] | null>(null)
const busy = ref(false)

const JOINS = ['and', 'or', 'not', '(', ')']
const TIMED = [
  { said: 'flashing', text: 'flash()', back: 1 },
  { said: 'and some s longer', text: 'longer(, 20)', back: 5 },
  { said: 'once … until', text: 'latch(, )', back: 3 },
]
const words = computed(() =>
  props.heard
    .filter((row) => row.told && row.led)
    .flatMap((row) => row.asked.map((one) => ({ ...one, over: row.over }))),
)
const soft = ref(props.channel.soft_s ? String(props.channel.soft_s) : '')
const seconds = computed(() => (soft.value.trim() ? typedNumber(soft.value) : 0))
const badSoft = computed(() => seconds.value === null || seconds.value < 0 || seconds.value > props.softest)
const amps = computed(() => (limit.value.trim() ? typedNumber(limit.value) : null))
const badLimit = computed(() => limit.value.trim() !== '' && !(amps.value !== null && amps.value > 0))

async function put(text: string, back = 0): Promise<void> {
  const at = field.value?.selectionStart ?? when.value.length
  const end = field.value?.selectionEnd ?? at
  const before = when.value.slice(0, at)
  const gap = before && !/[\s(]$/.test(before) && text !== ')' ? ' ' : ''
  when.value = before + gap + text + when.value.slice(end)
  await nextTick()
  const place = before.length + gap.length + text.length - back
  field.value?.focus()
  field.value?.setSelectionRange(place, place)
}

let asked = 0
let timer: ReturnType<typeof setTimeout> | undefined
watch(when, () => {
  clearTimeout(timer)
  timer = setTimeout(() => void look(), 150)
}, { immediate: true })
onMounted(() => field.value?.focus())

async function look(): Promise<void> {
  const mine = ++asked
  const body = { part: props.part, when: when.value }
  const answer = await answered(
    client.POST('/api/builds/{build_id}/conditions', { params: { path: { build_id: id.value } }, body }),
  )
  if (mine === asked) tried.value = answer
}

async function write(): Promise<void> {
  if (busy.value || badLimit.value || badSoft.value) return
  busy.value = true
  clearTimeout(timer)
  try {
    await look() // what was typed last, not what was looked at last
    if (!tried.value?.problem) await props.save(when.value.trim(), amps.value, seconds.value)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <form class="condition" :aria-label="`When ${channel.name} is on`" @submit.prevent="write" @keydown.esc.stop="emit('close')">
    <label class="text">
      On while
      <textarea
        ref="field"
        v-model="when"
        rows="2"
        maxlength="300"
        placeholder="never"
        spellcheck="false"
        @keydown.enter.exact.prevent="write"
      ></textarea>
    </label>
    <p class="sentence" role="status">
      <template v-if="tried?.problem"><span class="over">{{ tried.problem }}</span></template>
      <template v-else-if="tried">
        On {{ tried.says }}.
        <b v-if="tried.idle" class="over">That is {{ tried.idle }} so.</b>
      </template>
    </p>
    <div class="words" aria-label="Words">
      <button v-for="word in JOINS" :key="word" type="button" class="join" @click="put(word)">{{ word }}</button>
      <button v-for="word in TIMED" :key="word.said" type="button" class="join" @click="put(word.text, word.back)">{{ word.said }}</button>
      <button v-for="word in words" :key="word.text" type="button" :title="word.over ? `told over ${word.over}` : word.text" @click="put(word.text)">
        {{ word.said }}<small v-if="word.over" class="quiet"> {{ word.over }}</small>
      </button>
    </div>
    <table v-if="tried && tried.rows.length && !tried.problem" class="logic" aria-label="Truth table of the condition">
      <thead>
        <tr>
          <th v-for="name in tried.names" :key="name" scope="col">{{ name }}</th>
          <th scope="col">{{ channel.name }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, at) in tried.rows" :key="at" :class="{ on: row.is_on }">
          <td v-for="(position, column) in row.positions" :key="column">{{ position }}</td>
          <td>{{ row.is_on ? '● on' : '· off' }}</td>
        </tr>
      </tbody>
    </table>
    <footer>
      <label>
        trips above
        <input v-model="limit" inputmode="decimal" maxlength="8" :aria-invalid="badLimit" />
        A
      </label>
      <label v-if="softest > 0">
        starts softly over
        <input v-model="soft" inputmode="decimal" maxlength="5" placeholder="0" :aria-invalid="badSoft" />
        s, at most {{ softest }}
      </label>
      <AButton size="small" type="primary" html-type="submit" :loading="busy" :disabled="Boolean(tried?.problem) || badLimit || badSoft">Save</AButton>
      <AButton size="small" @click="emit('close')">Leave it</AButton>
    </footer>
  </form>
</template>

<style scoped>
.condition {
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.text {
  display: flex;
  gap: 8px;
  align-items: start;
}

textarea {
  flex: 1;
  padding: 4px 6px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  resize: vertical;
}

.sentence {
  margin: 0;
}

.words {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}

.words button {
  padding: 1px 8px;
  border: 1px solid var(--rule);
  border-radius: 10px;
  background: var(--sheet);
  color: var(--ink);
  cursor: pointer;
  font: inherit;
  font-size: 13px;
}

.words small {
  margin-left: 5px;
}

.words .join {
  border-color: var(--copper);
  color: var(--copper);
}

.logic {
  width: auto;
  max-height: 240px;
}

.logic td,
.logic th {
  padding: 1px 12px 1px 4px;
  font-size: 13px;
  text-align: left;
}

.logic tr.on td {
  background: color-mix(in srgb, var(--amber) 16%, transparent);
  font-weight: 600;
}

footer {
  display: flex;
  gap: 10px;
  align-items: center;
}

footer input {
  width: 64px;
  height: 26px;
  padding: 0 5px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.over {
  color: var(--brick);
  font-weight: 600;
}
</style>
