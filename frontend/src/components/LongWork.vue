<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'

import { longWork, stop } from '@/api/work'

const percent = (share: number) => Math.round(100 * share)
</script>

<template>
  <div v-if="longWork.length" class="work no-print" role="status">
    <p v-for="work in longWork" :key="work.name">
      <span class="doing">{{ work.stopping ? 'Stopping' : work.doing }}…</span>
      <progress :value="work.share" max="1" :aria-label="work.doing">
        {{ percent(work.share) }} %
      </progress>
      <span class="figure quiet">{{ percent(work.share) }} %, {{ Math.round(work.seconds) }} s</span>
      <AButton size="small" :disabled="work.stopping" @click="stop(work)">Stop</AButton>
    </p>
  </div>
</template>

<style scoped>
.work {
  position: fixed;
  z-index: 20;
  right: 14px;
  bottom: 44px;
  padding: 8px 12px 2px;
  border: 1px solid var(--rule);
  border-left: 4px solid var(--copper);
  border-radius: 3px;
  background: var(--sheet);
  box-shadow: 0 2px 8px rgb(0 0 0 / 18%);
}

p {
  display: flex;
  gap: 10px;
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
