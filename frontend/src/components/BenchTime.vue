<script setup lang="ts">
import { computed, ref } from 'vue'

import { fixed } from '@/format'
import { useLive } from '@/stores/live'

/** How time passes at the bench, and the sessions that are kept. */
const live = useLive()
const RATES = [
  { rate: 0, said: '❚❚', name: 'Stand still' },
  { rate: 0.01, said: '1/100', name: 'A hundredth of real time' },
  { rate: 0.1, said: '1/10', name: 'A tenth of real time' },
  { rate: 1, said: '×1', name: 'Real time' },
  { rate: 10, said: '×10', name: 'Ten times real time' },
]
const t = computed(() => live.frame?.t_s ?? 0)
const clock = computed(() => {
  const minutes = Math.floor(t.value / 60)
  const seconds = t.value - 60 * minutes
  return `${minutes}:${seconds.toFixed(live.rate < 0.5 ? 3 : 1).padStart(live.rate < 0.5 ? 6 : 4, '0')}`
})
const ahead = computed(() => (live.session?.ends_s ?? 0) > t.value + 0.01)
const name = ref('')

async function save(): Promise<void> {
  const script = await live.script()
  const file = new Blob([JSON.stringify(script, null, 1)], { type: 'application/json' })
  const link = document.createElement('a')
  link.href = URL.createObjectURL(file)
  link.download = 'bench-script.json'
  link.click()
  URL.revokeObjectURL(link.href)
}

const unreadable = ref('')
async function load(event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const file = field.files?.[0]
  if (!file) return
  try {
    unreadable.value = ''
    const script = JSON.parse(await file.text())
    if (!Array.isArray(script?.actions)) throw new Error('it has no list called “actions”')
    await live.play(script)
  } catch (problem) {
    unreadable.value = `${file.name} is no script: ${problem instanceof Error ? problem.message : problem}.`
  }
  field.value = ''
}

function keep(): void {
  void live.keep(name.value).then((kept) => kept && (name.value = ''))
}
function linkTo(kept: number): string {
  return `${location.pathname}?session=${kept}&at=${t.value.toFixed(2)}`
}
</script>

<template>
  <section class="time" aria-label="Time">
    <div class="positions" role="radiogroup" aria-label="How fast time passes">
      <button v-for="row in RATES" :key="row.rate" role="radio" :aria-checked="live.rate === row.rate" :aria-label="row.name" :title="row.name" @click="live.time({ rate: row.rate })">
        {{ row.said }}
      </button>
    </div>
    <button class="step" title="Let 10 milliseconds pass" @click="live.time({ rate: 0, step_s: 0.01 })">+10 ms</button>
    <button class="step" title="Let a minute pass at once" @click="live.time({ step_s: 60 })">+1 min</button>
    <output class="clock" aria-label="Time at the bench">{{ clock }}</output>
    <span v-if="ahead" class="quiet">replays to {{ fixed(live.session!.ends_s, 1) }} s</span>
    <details class="sessions">
      <summary>Session</summary>
      <div class="sheet box">
        <p>
          <button class="plain" @click="live.clear()">Begin anew, everything off and mended</button>
        </p>
        <form @submit.prevent="keep">
          <input v-model="name" class="field" maxlength="80" aria-label="Name to keep this session under" placeholder="name to keep it under" />
          <button class="act" :disabled="!name.trim()">Keep</button>
        </form>
        <ul>
          <li v-for="row in live.session?.kept ?? []" :key="row.id">
            <button class="plain" :title="`Play “${row.name}” from the start`" @click="live.openKept(row.id)">{{ row.name }}</button>
            <span class="quiet">{{ fixed(row.ends_s, 0) }} s, {{ row.actions }} done</span>
            <a :href="linkTo(row.id)" :aria-label="`Link to ${row.name} at this time`">link</a>
            <button class="plain" :aria-label="`Throw ${row.name} away`" @click="live.dropKept(row.id)">✕</button>
          </li>
        </ul>
        <p>
          <button class="plain" @click="save">Save as a script</button>
          <label class="plain file">Play a script<input type="file" accept=".json,application/json" aria-label="Play a script" @change="load" /></label>
        </p>
        <p v-if="unreadable" class="refusal" role="alert">{{ unreadable }}</p>
      </div>
    </details>
  </section>
</template>

<style scoped>
.time {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  padding: 6px 10px;
  border-bottom: 1px solid var(--rule);
}

.positions {
  display: flex;
  border: 1px solid var(--quiet);
  border-radius: 3px;
}

.positions button,
.step {
  min-height: 28px;
  padding: 2px 8px;
  border: 0;
  background: transparent;
  color: var(--ink);
  cursor: pointer;
  font-family: var(--heading);
  font-size: 15px;
}

.positions button + button {
  border-left: 1px solid var(--rule);
}

.positions button[aria-checked='true'] {
  background: var(--ink);
  color: var(--sheet);
}

.step,
.act {
  border: 1px solid var(--copper);
  border-radius: 3px;
  background: transparent;
  color: var(--copper);
}

.clock {
  min-width: 76px;
  font-family: var(--heading);
  font-size: 20px;
  font-weight: 600;
  text-align: right;
}

.sessions {
  position: relative;
  margin-left: auto;
}

summary {
  color: var(--copper);
  cursor: pointer;
}

.box {
  position: absolute;
  z-index: 5;
  right: 0;
  width: 320px;
  max-width: 90vw;
  padding: 10px 12px;
}

.box form {
  display: flex;
  gap: 6px;
}

.box .field {
  flex: 1;
  min-width: 0;
  height: 30px;
}

ul {
  margin: 6px 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  gap: 8px;
  align-items: baseline;
}

li .quiet {
  flex: 1;
}

.file input {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}

.file:focus-within {
  outline: 2px solid var(--amber);
}
</style>
