<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { useBuild, useBuildId } from '@/api/queries'
import CarBook from '@/components/CarBook.vue'
import CarJournal from '@/components/CarJournal.vue'
import CarRevisions from '@/components/CarRevisions.vue'

/** Where one was, what the build was before, and the book of the car. */
const id = useBuildId()
const route = useRoute()
const { data: build } = useBuild(id)

const PARTS = [
  { name: '', title: 'Where was I?' },
  { name: 'revisions', title: 'Revisions' },
  { name: 'book', title: 'The book' },
]
const part = computed(() => PARTS.find((row) => row.name === (route.params.part ?? '')) ?? PARTS[0]!)
</script>

<template>
  <div class="hand-over">
    <header>
      <h1>Hand over</h1>
      <nav class="list-tabs" aria-label="Parts">
        <RouterLink
          v-for="row in PARTS"
          :key="row.name"
          :to="{ name: 'hand-over', params: { id, part: row.name } }"
          :class="{ here: row === part }"
          :aria-current="row === part ? 'page' : undefined"
        >
          {{ row.title }}
        </RouterLink>
      </nav>
    </header>
    <template v-if="build">
      <CarJournal v-if="part.name === ''" />
      <CarRevisions v-else-if="part.name === 'revisions'" :build="build" />
      <CarBook v-else :build="build" />
    </template>
  </div>
</template>

<style scoped>
.hand-over {
  height: 100%;
  overflow-y: auto;
  padding: 10px 14px 16px;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  align-items: baseline;
  margin-bottom: 10px;
}
</style>
