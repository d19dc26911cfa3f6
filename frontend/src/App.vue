<script setup lang="ts">
import { ConfigProvider as AConfigProvider } from 'ant-design-vue'
import { storeToRefs } from 'pinia'
import { defineAsyncComponent, ref } from 'vue'

import LongWork from '@/components/LongWork.vue'
import { useLook } from '@/stores/look'

const SafetyNotice = defineAsyncComponent(() => import('@/components/SafetyNotice.vue'))
const STORED = 'oilstone-care-read'

const { theme } = storeToRefs(useLook())
const careRead = ref(localStorage.getItem(STORED) === 'yes')

function read(): void {
  localStorage.setItem(STORED, 'yes')
  careRead.value = true
}
</script>

<template>
  <AConfigProvider :theme="theme" :auto-insert-space-in-button="false">
    <RouterView />
    <LongWork />
    <SafetyNotice v-if="!careRead" @read="read" />
  </AConfigProvider>
</template>
