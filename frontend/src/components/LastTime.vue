<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'

import type { Schemas } from '@/api/client'
import { useBuildId, useJournal } from '@/api/queries'
import { dayInWords, doneIn } from '@/journal'

/** Whoever comes back on another day is told what was done last and what can be done next; once, and put away by a press. */
const id = useBuildId()
const stored = computed(() => `oilstone-last-time-${id.value}`)
const away = ref(sessionStorage.getItem(stored.value) !== null)
const journal = shallowRef<Schemas['JournalView']>()
const { data } = useJournal(id, computed(() => !away.value && !journal.value))
watch(data, (found) => (journal.value ??= found), { immediate: true })

const MOST = 3
const last = computed(() => {
  const evening = journal.value?.evenings[0]
  return evening && evening.day !== journal.value?.today ? evening : undefined
})
const done = computed(() => (last.value ? [...last.value.lines.map((line) => line.words), ...doneIn(last.value, MOST)] : []))

function putAway(): void {
  sessionStorage.setItem(stored.value, 'yes')
  away.value = true
}
</script>

<template>
  <section v-if="!away && last && journal" class="no-print" aria-label="Last time">
    <p>
      <b>Last on {{ dayInWords(last.day) }}:</b> {{ done.join('. ') }}.
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
