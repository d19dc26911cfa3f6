<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView } from '@/api/client'
import { fixed } from '@/format'
import { useLive } from '@/stores/live'

/** Every load and what it does now, in words. */
const props = defineProps<{ build: BuildView }>()
const emit = defineEmits<{ choose: [part: string] }>()

const live = useLive()
const rows = computed(() =>
  props.build.parts
    .filter((part) => part.kind === 'load' && live.loadAt.has(part.id))
    .map((part) => {
      const n = live.loadAt.get(part.id)!
      return { part, v: live.calm?.load_v[n], a: Math.abs(live.calm?.load_a[n] ?? 0) }
    }),
)
</script>

<template>
  <div class="loads">
    <table>
      <caption class="visually-hidden">What every load does now</caption>
      <thead>
        <tr>
          <th scope="col">Load</th>
          <th scope="col" class="figure">V</th>
          <th scope="col" class="figure">A</th>
          <th scope="col">Does, of rated</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.part.id" :class="{ on: live.on.has(row.part.id) }">
          <td><button :title="`Voltmeter across ${row.part.name}`" @click="emit('choose', row.part.id)">{{ row.part.name }}</button></td>
          <td class="figure">{{ fixed(row.v, 2) }}</td>
          <td class="figure">{{ fixed(row.a, 2) }}</td>
          <td>
            <template v-if="live.on.has(row.part.id)">{{ live.doing(row.part) }}</template>
            <span v-else class="quiet">off</span>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="rows.length === 0" class="empty">No loads yet: list them in Take stock.</p>
  </div>
</template>

<style scoped>
.loads {
  overflow-y: auto;
  height: 100%;
}

td {
  padding: 2px 8px;
}

td button {
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  cursor: pointer;
  font: inherit;
  text-align: left;
}

tr.on td {
  color: var(--amber-ink);
  font-weight: 600;
}
</style>
