<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed } from 'vue'

import { longWork, stop, type Work } from '@/api/work'

const percent = (share: number) => Math.round(100 * share)

/** What is being done, once each: several requests may wait for the same. */
const shown = computed(() => {
  const found = new Map<string, Work[]>()
  for (const work of longWork) {
    const doing = work.stopping ? 'Stopping' : work.doing
    found.set(doing, [...(found.get(doing) ?? []), work])
  }
  return [...found].map(([doing, works]) => ({ doing, works, oldest: works[0]! }))
})
</script>

<template>
  <div v-if="shown.length" class="work no-print" role="status">
    <p v-for="{ doing, works, oldest } in shown" :key="doing">
      <span class="doing">{{ doing }}…</span>
      <progress :value="oldest.share" max="1" :aria-label="doing">{{ percent(oldest.share) }} %</progress>
      <span class="figure quiet">{{ percent(oldest.share) }} %, {{ Math.round(oldest.seconds) }} s</span>
      <AButton size="small" :disabled="oldest.stopping" @click="works.forEach(stop)">Stop</AButton>
    </p>
  </div>
</template>

<style scoped>
.work {
  position: fixed;
  z-index: 20;
  right: 14px;
  bottom: 44px;
  max-width: calc(100vw - 28px);
  padding: 8px 12px 2px;
  border: 1px solid var(--rule);
  border-left: 4px solid var(--copper);
  border-radius: 3px;
  background: var(--sheet);
  box-shadow: 0 2px 8px rgb(0 0 0 / 18%);
}

p {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: center;
  margin-bottom: 6px;
}

.doing {
  min-width: 210px;
}

.figure {
  min-width: 74px;
}

progress {
  width: 120px;
  accent-color: var(--copper);
}
</style>
