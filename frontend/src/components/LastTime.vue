<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'

import type { Schemas } from '@/api/client'
import { useBuildId, useJournal } from '@/api/queries'

/** Whoever comes back on another day is told what was done last and what can be done next; once, and put away by a press. */
const id = useBuildId()
const stored = computed(() => `oilstone-last-time-${id.value}`)
const away = ref(sessionStorage.getItem(stored.value) !== null)
const journal = shallowRef<Schemas['JournalView']>()
const { data } = useJournal(id, computed(() => !away.value && !journal.value))
watch(data, (found) => (journal.value ??= found), { immediate: true })

const NIGHT_MS = 4 * 3600 * 1000
const MOST = 3

/** The evening that it is: what is done after midnight belongs to the day before. */
const today = () => {
  const now = new Date(Date.now() - NIGHT_MS)
  return [now.getFullYear(), now.getMonth() + 1, now.getDate()].map((part) => String(part).padStart(2, '0')).join('-')
}
const last = computed(() => {
  const evening = journal.value?.evenings[0]
  return evening && evening.day < today() ? evening : undefined
})
const some = (rows: string[]) => `${rows.slice(-MOST).join('; ')}${rows.length > MOST ? ` and ${rows.length - MOST} more` : ''}`
const done = computed(() => {
  const row = last.value
  if (!row) return []
  return [
    ...row.lines.map((line) => line.words),
    row.made.length ? `wires: ${row.made.join(', ')}` : '',
    row.proved.length ? `proved: ${some(row.proved)}` : '',
    row.found.length ? `found: ${some(row.found)}` : '',
    row.edits.length ? `changed: ${some(row.edits)}` : '',
  ].filter(Boolean)
})
const day = (text: string) => new Date(`${text}T12:00`).toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long' })

function putAway(): void {
  sessionStorage.setItem(stored.value, 'yes')
  away.value = true
}
</script>

<template>
  <section v-if="!away && last && journal" class="no-print" aria-label="Last time">
    <p>
      <b>Last on {{ day(last.day) }}:</b> {{ done.join('; ') }}.
      <template v-if="journal.next">
        <b>In the next hour:</b> the {{ journal.next.wires }} wires of {{ journal.next.circuits.join(', ') }}{{ journal.next.at_hand ? ', with what is at hand' : '' }}.
      </template>
    </p>
    <RouterLink :to="{ name: 'hand-over', params: { id } }" @click="putAway">Where was I?</RouterLink>
    <button type="button" class="plain" @click="putAway">Put away</button>
  </section>
</template>

<style scoped>
section {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
  padding: 6px 14px;
  border-bottom: 1px solid var(--rule);
  background: var(--sheet);
}

p {
  flex: 1 1 320px;
  margin: 0;
}
</style>
