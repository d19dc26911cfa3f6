<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { useBuildId, useHelp } from '@/api/queries'
import { stages } from '@/stages'
import { useWalk } from '@/stores/walk'

/** What to know at the stage shown, the words of the trade, and the keys; searched as one. */
const open = defineModel<boolean>('open', { required: true })

const KEYS: [string, string][] = [
  ['Alt + 1 … 9, 0', 'a line of the route card'],
  ['K, then 0 1 2 3', 'key off, accessory, run, crank'],
  ['B', 'bench'],
  ['F', 'findings'],
  ['N', 'new line in Take stock'],
  ['/', 'find a wire, label, part, terminal or circuit'],
  ['Arrows, Shift + arrows', 'move in a list / choose several cells'],
  ['Enter, or just typing', 'edit the cell in focus; Esc leaves it as it was'],
  ['Ctrl + Enter', 'set all chosen cells to what was typed'],
  ['Ctrl + C, Ctrl + V', 'copy and paste cells, from and to a spreadsheet'],
  ['Ctrl + D, Delete', 'fill down / empty the chosen cells'],
  ['Arrows on the plan', 'move a place; Shift moves it finely, J joins it by a run'],
  ['Ctrl + Z', 'undo'],
  ['Ctrl + Shift + Z', 'redo'],
  ['?', 'this sheet'],
]

const route = useRoute()
const { data: help, error } = useHelp()
const wanted = ref('')
const sheet = ref<HTMLDialogElement>()
onMounted(() => sheet.value!.showModal())

const stage = computed(() => stages.find((row) => route.path.split('/')[3] === row.name))

const id = useBuildId()
const router = useRouter()
const walk = useWalk()
function walkRound(): void {
  sheet.value!.close()
  void router.push(walk.goTo(id.value, 0)!)
}

/** Whether every word that is looked for stands in one of these texts. */
function isWanted(...texts: string[]): boolean {
  const text = texts.join(' ').toLowerCase()
  return wanted.value.toLowerCase().split(/\s+/).every((word) => text.includes(word))
}

const titled = computed(() =>
  stages
    .filter((row) => wanted.value || !stage.value || row.name === stage.value.name)
    .map((row) => ({ ...row, lines: (help.value?.stages ?? []).filter((line) => line.stage === row.name && isWanted(row.title, line.says)) }))
    .filter((row) => row.lines.length),
)
const words = computed(() => (help.value?.words ?? []).filter((row) => isWanted(row.word, row.meaning)))
const near = computed(() => words.value.filter((row) => !wanted.value && stage.value && row.stages.split(' ').includes(stage.value.name)))
const others = computed(() => words.value.filter((row) => !near.value.includes(row)))
const keys = computed(() => KEYS.filter((row) => isWanted(...row)))
</script>

<template>
  <dialog ref="sheet" aria-label="Help" @close="open = false" @click.self="sheet!.close()">
    <header>
      <h1>Help</h1>
      <button type="button" aria-label="Close" @click="sheet!.close()">✕</button>
    </header>
    <label>
      <span class="visually-hidden">Look for a word or a key</span>
      <input v-model="wanted" class="field" type="search" placeholder="Look for: splice, drop, undo…" />
    </label>
    <p v-show="!wanted"><button type="button" class="plain" @click="walkRound">A short walk through this build</button></p>
    <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
    <section v-for="row in titled" :key="row.name">
      <h2>{{ row.title }}</h2>
      <ul>
        <li v-for="line in row.lines" :key="line.says">{{ line.says }}</li>
      </ul>
    </section>
    <section v-for="[title, rows] in [['Words met here', near], [near.length ? 'Other words' : 'Words', others]] as const" v-show="rows.length" :key="title">
      <h2>{{ title }}</h2>
      <dl>
        <template v-for="row in rows" :key="row.word">
          <dt>{{ row.word }}</dt>
          <dd>{{ row.meaning }}</dd>
        </template>
      </dl>
    </section>
    <section v-if="keys.length">
      <h2>Keys</h2>
      <dl>
        <template v-for="[key, what] in keys" :key="key">
          <dt>{{ key }}</dt>
          <dd>{{ what }}</dd>
        </template>
      </dl>
    </section>
    <p v-if="wanted && !titled.length && !words.length && !keys.length" class="empty" role="status">Nothing here says “{{ wanted }}”.</p>
    <p v-if="!stage || stage.name === 'hand-over'" class="quiet">Planning aid, not a certificate: local codes and licensed people decide.</p>
  </dialog>
</template>

<style scoped>
dialog {
  width: min(440px, 100vw);
  max-width: none;
  height: 100%;
  max-height: none;
  padding: 12px 16px 24px;
  border: 0;
  border-left: 1px solid var(--rule);
  margin: 0 0 0 auto;
  background: var(--sheet);
  color: var(--ink);
}

dialog::backdrop {
  background: rgb(0 0 0 / 35%);
}

header {
  display: flex;
  justify-content: space-between;
  margin-bottom: 8px;
}

header button {
  border: 0;
  background: none;
  color: var(--ink);
  cursor: pointer;
  font-size: 16px;
}

input {
  width: 100%;
  height: 32px;
}

h2 {
  margin: 14px 0 4px;
}

ul {
  margin: 0;
  padding-left: 18px;
}

li {
  margin-bottom: 4px;
}

dl {
  display: grid;
  gap: 4px 12px;
  grid-template-columns: minmax(110px, auto) 1fr;
  margin: 0;
}

dt {
  font-weight: 600;
}

dd {
  margin: 0;
}
</style>
