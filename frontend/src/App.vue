<script setup lang="ts">
import { ConfigProvider as AConfigProvider } from 'ant-design-vue'
import { storeToRefs } from 'pinia'

import SafetyNotice from '@/components/SafetyNotice.vue'
import { useLook } from '@/stores/look'

const { theme } = storeToRefs(useLook())
</script>

<template>
  <AConfigProvider :theme="theme" :auto-insert-space-in-button="false">
    <RouterView />
    <SafetyNotice />
  </AConfigProvider>
</template>
