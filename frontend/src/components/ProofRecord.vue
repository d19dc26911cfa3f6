<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { fixed, moment } from '@/format'

/** Every proof kept of one circuit, newest first. */
defineProps<{ proofs: Schemas['ProofView'][] }>()

function figures(row: Schemas['RecordedReading']): string {
  const said = []
  if (typeof row.volts === 'number') said.push(`${fixed(row.volts, 2)} V, ${row.volts_verdict}`)
  if (typeof row.amps === 'number') said.push(`${fixed(row.amps, 2)} A, ${row.amps_verdict}`)
  return `${row.name}: ${said.join('; ')}`
}

function measured(proof: Schemas['ProofView']) {
  return proof.readings.filter((row) => row.volts !== null || row.amps !== null)
}
</script>

<template>
  <section class="record" aria-label="Record of proof">
    <h2>Record</h2>
    <p v-if="proofs.length === 0" class="quiet">Not tried yet. What you record is kept here.</p>
    <ol v-else>
      <li v-for="proof in proofs" :key="proof.id">
        <b :class="proof.passed ? 'passed' : 'failed'">
          {{ proof.passed ? '● passed' : '■ not passed' }}
        </b>
        <time :datetime="proof.at">{{ moment(proof.at) }}</time>
        <span class="quiet">revision {{ proof.revision }}</span>
        <span v-if="proof.stale" class="stale">
          ▲ the build has changed since: other readings are to be expected, prove it again
        </span>
        <div v-for="row in measured(proof)" :key="row.load">{{ figures(row) }}</div>
        <div v-if="proof.note">{{ proof.note }}</div>
      </li>
    </ol>
  </section>
</template>

<style scoped>
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  padding: 6px 0;
  border-top: 1px solid var(--rule);
}

li > * {
  margin-right: 10px;
}

.passed {
  color: var(--moss);
}

.failed {
  color: var(--brick);
}

.stale {
  color: var(--ochre);
}
</style>
