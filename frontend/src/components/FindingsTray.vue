<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { answered, client, Refused } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId, useResults } from '@/api/queries'

import FindingNote from './FindingNote.vue'
import VerdictMark from './VerdictMark.vue'

const open = defineModel<boolean>('open', { required: true })

const id = useBuildId()
const { data: results, isFetching, error } = useResults(id)
const findings = computed(() => results.value?.findings ?? [])
const { edit } = useEdits(id)
const mending = ref('')

const mendable = computed(() => findings.value.filter((row) => row.mends.length && !row.accepted))

/** The core tries one mend after the other and keeps those that make nothing worse; saved as one edit. */
async function mendAll(): Promise<void> {
  mending.value = 'Trying one mend after the other…'
  try {
    const found = await answered(client.POST('/api/builds/{build_id}/mending', { params: { path: { build_id: id.value } } }))
    mending.value = found.mends.length ? '' : 'None of the mends is safe by itself.'
    if (found.mends.length) await edit(`Mend ${found.mends.length} findings`, found.operations)
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    mending.value = problem.message
  }
}

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
      <p v-if="mendable.length > 1" class="all">
        <AButton size="small" :disabled="mending.startsWith('Trying')" @click="mendAll">Mend all that are safe</AButton>
        <span class="quiet" role="status">{{ mending || 'one edit, to be undone as one; a mend that makes anything worse is left out' }}</span>
      </p>
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

.all {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
  margin: 0;
  grid-column: 1 / -1;
}

.foot {
  display: flex;
  gap: 16px;
  align-items: center;
  padding: 3px 12px;
}

.foot button {
  display: flex;
  min-width: 0;
  flex: 0 1 auto;
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
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
