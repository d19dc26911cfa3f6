<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { moment } from '@/format'
import { bandWords } from '@/proving'

/** Every proof kept of one step, newest first. */
defineProps<{ proofs: Schemas['ProofView'][] }>()
</script>

<template>
  <section class="record" aria-label="Record of proof">
    <h2>Record</h2>
    <p v-if="proofs.length === 0" class="quiet">Not tried yet. What you record is kept here.</p>
    <ol v-else>
      <li v-for="proof in proofs" :key="proof.id">
        <b :class="proof.passed ? 'passed' : 'failed'">
          {{ proof.passed ? '● passed' : '■ not right' }}
        </b>
        <time :datetime="proof.at">{{ moment(proof.at) }}</time>
        <span v-if="proof.who">{{ proof.who }}</span>
        <span class="quiet">revision {{ proof.revision }}</span>
        <div v-if="proof.again" class="stale">▲ Prove it again. {{ proof.again }}</div>
        <div v-for="row in proof.readings" :key="row.id">
          {{ row.name }}: <b>{{ row.text }}{{ /\d$/.test(row.text) ? ` ${row.unit}` : '' }}</b
          >, {{ row.verdict }} <span class="quiet">({{ bandWords(row) }})</span>
          <span v-if="row.hint" class="stale">{{ row.hint }}</span>
        </div>
        <template v-for="row in proof.looks" :key="row.id">
          <div v-if="row.seen">{{ row.name }}: <b>{{ row.seen }}</b></div>
        </template>
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
