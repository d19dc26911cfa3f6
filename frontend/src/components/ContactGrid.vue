<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, reactive, watch } from 'vue'

import type { Schemas } from '@/api/client'

/** The contacts of a switch as a grid: in each position, terminals with the same figure are joined. */
const props = defineProps<{ part: Schemas['PartView'] }>()
const emit = defineEmits<{ save: [contacts: Schemas['ContactsView']] }>()

interface Row {
  name: string
  group: Record<string, number>
}
const draft = reactive<{ common: string; momentary: boolean; terminals: string[]; rows: Row[]; more: string }>({
  common: '',
  momentary: false,
  terminals: [],
  rows: [],
  more: '',
})

watch(() => props.part, read, { immediate: true })

function read(): void {
  const table = props.part.contacts
  if (!table) return
  draft.common = table.common
  draft.momentary = table.momentary
  draft.terminals = [...props.part.terminals]
  draft.rows = table.positions.map((position) => ({
    name: position.name,
    group: Object.fromEntries(
      position.joins.flatMap((names, index) => names.map((terminal) => [terminal, index + 1])),
    ),
  }))
  draft.more = ''
}

/** One press: the next group, and after the third none. */
function press(row: Row, terminal: string): void {
  row.group[terminal] = ((row.group[terminal] ?? 0) + 1) % 4
}

function addTerminal(): void {
  const name = draft.more.trim().replace(/[\s.]+/g, '-')
  if (name && !draft.terminals.includes(name)) draft.terminals.push(name)
  draft.more = ''
}

const positions = computed(() =>
  draft.rows.map((row) => ({
    name: row.name.trim() || 'position',
    joins: [1, 2, 3]
      .map((group) => draft.terminals.filter((terminal) => row.group[terminal] === group))
      .filter((names) => names.length > 1),
  })),
)
const contacts = computed<Schemas['ContactsView']>(() => {
  const joined = new Set([draft.common, ...positions.value.flatMap((row) => row.joins.flat())])
  return {
    common: draft.common,
    momentary: draft.momentary,
    positions: positions.value,
    idle: draft.terminals.filter((terminal) => !joined.has(terminal)),
  }
})
const changed = computed(() => JSON.stringify(contacts.value) !== JSON.stringify(asStored()))

function asStored(): Schemas['ContactsView'] | null {
  const table = props.part.contacts
  return table && { common: table.common, momentary: table.momentary, positions: table.positions, idle: table.idle }
}
</script>

<template>
  <div class="contacts">
    <p class="quiet says">
      Terminals with the same figure are joined in that position; the first position is at rest.
    </p>
    <table :aria-label="`Contacts of ${part.name}`">
      <thead>
        <tr>
          <th scope="col">Position</th>
          <th v-for="terminal in draft.terminals" :key="terminal" scope="col" class="terminal">{{ terminal }}</th>
          <th scope="col"><span class="visually-hidden">Take out</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, index) in draft.rows" :key="index">
          <td><input v-model="row.name" :aria-label="`Name of position ${index + 1}`" maxlength="30" /></td>
          <td v-for="terminal in draft.terminals" :key="terminal" class="terminal">
            <button
              type="button"
              :class="`group-${row.group[terminal] ?? 0}`"
              :aria-label="`${row.name}, ${terminal}: ${row.group[terminal] ? `joined in group ${row.group[terminal]}` : 'not joined'}`"
              @click="press(row, terminal)"
            >
              {{ row.group[terminal] || '·' }}
            </button>
          </td>
          <td>
            <button type="button" class="out" :aria-label="`Take out position ${row.name}`" @click="draft.rows.splice(index, 1)">✕</button>
          </td>
        </tr>
      </tbody>
    </table>
    <div class="more">
      <button type="button" class="out" @click="draft.rows.push({ name: `position ${draft.rows.length + 1}`, group: {} })">
        + position
      </button>
      <form @submit.prevent="addTerminal">
        <input v-model="draft.more" placeholder="+ terminal" aria-label="Name of a new terminal" maxlength="24" />
      </form>
      <label>
        fed at
        <select v-model="draft.common">
          <option v-for="terminal in draft.terminals" :key="terminal" :value="terminal">{{ terminal }}</option>
        </select>
      </label>
      <label><input v-model="draft.momentary" type="checkbox" /> springs back</label>
      <AButton size="small" type="primary" :disabled="!changed" @click="emit('save', contacts)">Save contacts</AButton>
      <AButton size="small" :disabled="!changed" @click="read">As before</AButton>
    </div>
  </div>
</template>

<style scoped src="@/inside.css"></style>

<style scoped>
.contacts {
  padding: 6px 10px 8px;
}

.says {
  margin: 0;
}

.terminal {
  padding: 2px 5px;
  text-align: center;
}

.terminal button {
  width: 26px;
  height: 22px;
  padding: 0;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--quiet);
  cursor: pointer;
  font: inherit;
}

.terminal .group-1 {
  background: var(--copper);
  color: var(--sheet);
}

.terminal .group-2 {
  background: var(--teal);
  color: var(--sheet);
}

.terminal .group-3 {
  background: var(--ochre);
  color: var(--sheet);
}

</style>
