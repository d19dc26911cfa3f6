<script setup lang="ts">
import ViewTabs from '@/components/ViewTabs.vue'

const TABS = [
  { name: 'stock', title: 'Stock list' },
  { name: 'draft', title: 'Draft the wiring' },
  { name: 'old-loom', title: 'Old loom' },
  { name: 'two-harnesses', title: 'Two harnesses' },
  { name: 'ready-made', title: 'Ready-made harness' },
]
</script>

<template>
  <ViewTabs label="Take stock" :tabs="TABS" />
</template>
