<script setup lang="ts">
import ViewTabs from '@/components/ViewTabs.vue'

const TABS = [
  { name: 'feeds', title: 'Feeds and grounds' },
  { name: 'overview', title: 'Overview' },
  { name: 'modules', title: 'Modules and buses' },
  { name: 'change-over', title: 'Change over' },
]
</script>

<template>
  <ViewTabs label="Feeds" :tabs="TABS" />
</template>
