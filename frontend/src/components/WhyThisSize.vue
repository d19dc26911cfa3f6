<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { amps, fixed } from '@/format'

/** The candidates of one wire or fuse, what each failed on, and the one that is fitted. */
const props = defineProps<{
  name: string
  fitted: string
  pinned: boolean
  currentA: number
  lastingA: number
  when: string
  candidates: Schemas['CandidateView'][]
}>()

const BEFORE = 4

/** The few candidates around the fitted and the right one; the rest is the same story. */
const shown = computed(() => {
  const right = props.candidates.findIndex((row) => row.passes)
  const fitted = props.candidates.findIndex((row) => row.name === props.fitted)
  const last = Math.max(right, fitted)
  const first = Math.min(right < 0 ? fitted : right, fitted < 0 ? right : fitted)
  return props.candidates.slice(Math.max(0, first - BEFORE + (last > first ? 2 : 0)), last + 2)
})
const withDrop = computed(() => props.candidates.some((row) => row.drop_percent !== null))
</script>

<template>
  <section>
    <h3>Why {{ fitted }} for {{ name }}?</h3>
    <p class="quiet">
      At most {{ amps(currentA) }}: {{ when }}.
      <template v-if="amps(lastingA) !== amps(currentA)">By how long its loads are on that heats like {{ amps(lastingA) }} for ever.</template>
      <template v-if="pinned">The size is yours; Oilstone did not choose it.</template>
    </p>
    <table>
      <thead>
        <tr>
          <th scope="col">Size</th>
          <th scope="col" class="figure">Carries, A</th>
          <th v-if="withDrop" scope="col" class="figure">Drop, %</th>
          <th scope="col">Verdict</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in shown" :key="row.name" :class="{ fitted: row.name === fitted }">
          <td>{{ row.name }}<template v-if="row.name === fitted">, fitted</template></td>
          <td class="figure">{{ fixed(row.carries_a, 1) }}</td>
          <td v-if="withDrop" class="figure">{{ fixed(row.drop_percent, 2) }}</td>
          <td>
            <span :class="row.passes ? 'passes' : 'fails'" aria-hidden="true">
              {{ row.passes ? '●' : '■' }}
            </span>
            {{ row.reason }}
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
section {
  padding: 8px 12px;
}

.fitted {
  background: var(--copper-wash);
  font-weight: 600;
}

.passes {
  color: var(--moss);
}

.fails {
  color: var(--brick);
}
</style>
