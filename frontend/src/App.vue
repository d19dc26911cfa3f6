<script setup lang="ts">
import { ConfigProvider as AConfigProvider } from 'ant-design-vue'
import { storeToRefs } from 'pinia'
import { defineAsyncComponent, ref } from 'vue'

import LongWork from '@/components/LongWork.vue'
import { notLoaded } from '@/router'
import { useLook } from '@/stores/look'

const SafetyNotice = defineAsyncComponent(() => import('@/components/SafetyNotice.vue'))
const STORED = 'oilstone-care-read'

const { theme } = storeToRefs(useLook())
const careRead = ref(localStorage.getItem(STORED) === 'yes')

function askAgain(): void {
  if (notLoaded.value) window.location.assign(notLoaded.value)
}

function read(): void {
  localStorage.setItem(STORED, 'yes')
  careRead.value = true
}
</script>

<template>
  <AConfigProvider :theme="theme" :auto-insert-space-in-button="false">
    <RouterView />
    <p v-if="notLoaded" class="not-loaded" role="alert">
      This screen did not load: Oilstone is out of reach, or was started anew. What you typed is kept.
      <button type="button" @click="askAgain">Ask for it again</button>
    </p>
    <LongWork />
    <SafetyNotice v-if="!careRead" @read="read" />
  </AConfigProvider>
</template>

<style scoped>
.not-loaded {
  position: fixed;
  z-index: 20;
  right: 16px;
  bottom: 16px;
  left: 16px;
  padding: 12px 16px;
  border: 1px solid var(--ochre);
  background: var(--sheet);
}
</style>
