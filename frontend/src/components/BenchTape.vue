<script setup lang="ts">
import { computed } from 'vue'

import { useLive } from '@/stores/live'

/** What has happened, newest first; each line goes back to its moment. */
const live = useLive()
const SHOWN = 120
const events = computed(() => [...live.tape].slice(-SHOWN).reverse())

function at(t: number): string {
  const minutes = Math.floor(t / 60)
  return `${minutes}:${(t - 60 * minutes).toFixed(3).padStart(6, '0')}`
}
const BAD = ['fuse', 'wire', 'channel', 'fault']
</script>

<template>
  <section class="tape" aria-label="What happened">
    <ol v-if="events.length" aria-live="polite" aria-relevant="additions">
      <li v-for="(event, n) in events" :key="`${event.t_s} ${event.what} ${n}`" :class="{ bad: BAD.includes(event.kind) }">
        <button :title="`Go to ${at(event.t_s)} and stand still`" @click="live.time({ to_s: event.t_s })">{{ at(event.t_s) }}</button>
        <span>{{ event.what }}<template v-if="event.why">: {{ event.why }}</template></span>
      </li>
    </ol>
    <p v-else class="quiet">Nothing yet: turn the key.</p>
  </section>
</template>

<style scoped>
.tape {
  overflow-y: auto;
  height: 100%;
  padding: 4px 12px;
}

ol {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 2px 0;
}

button {
  min-width: 66px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
  text-align: right;
}

li.bad span {
  color: var(--brick);
}
</style>
