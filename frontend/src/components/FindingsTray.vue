<script setup lang="ts">
import { computed } from 'vue'

import { useBuildId, useResults } from '@/api/queries'

import FindingNote from './FindingNote.vue'
import VerdictMark from './VerdictMark.vue'

const open = defineModel<boolean>('open', { required: true })

const id = useBuildId()
const { data: results, isFetching, error } = useResults(id)
const findings = computed(() => results.value?.findings ?? [])
const counts = computed(() =>
  ['stop', 'look', 'note']
    .map((severity) => ({
      severity,
      count: findings.value.filter((row) => row.severity === severity && !row.accepted).length,
    }))
    .filter((row) => row.count > 0),
)
</script>

<template>
  <section class="tray no-print" aria-label="Findings">
    <div v-if="open" id="findings-list" class="list">
      <FindingNote v-for="row in findings" :key="row.title" :finding="row" linked />
      <p v-if="!results" class="empty">
        {{ error ? `Not known: ${error.message}` : 'Sizing. What is found shows here.' }}
      </p>
      <p v-else-if="findings.length === 0" class="empty">
        Nothing to look at: every fuse and wire passes its checks.
      </p>
    </div>
    <div class="foot">
      <button :aria-expanded="open" aria-controls="findings-list" @click="open = !open">
        <b>Findings</b>
        <span v-if="error" class="quiet">{{ error.message }}</span>
        <template v-else-if="counts.length">
          <VerdictMark
            v-for="row in counts"
            :key="row.severity"
            :verdict="row.severity"
            :count="row.count"
          />
        </template>
        <VerdictMark v-else-if="results" verdict="fine" />
        <span v-if="isFetching" class="quiet">sizing…</span>
        <span aria-hidden="true">{{ open ? '▾' : '▴' }}</span>
      </button>
      <slot />
    </div>
  </section>
</template>

<style scoped>
.tray {
  border-top: 1px solid var(--rule);
  background: var(--card);
}

.list {
  display: grid;
  max-height: 40vh;
  gap: 6px;
  overflow-y: auto;
  padding: 10px 12px;
  border-bottom: 1px solid var(--rule);
  grid-template-columns: repeat(auto-fill, minmax(420px, 1fr));
}

.foot {
  display: flex;
  gap: 16px;
  align-items: center;
  padding: 3px 12px;
}

.foot button {
  display: flex;
  flex: none;
  gap: 8px;
  align-items: center;
  padding: 3px 0;
  border: 0;
  background: none;
  color: var(--ink);
  cursor: pointer;
}

.foot b {
  font-family: var(--heading);
  font-size: 16px;
}

@media (max-width: 900px) {
  .list {
    grid-template-columns: 1fr;
  }
}
</style>
