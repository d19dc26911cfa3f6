<script setup lang="ts">
import { useBuild, useBuildId, useRules } from '@/api/queries'
import DropSchools from '@/components/DropSchools.vue'
import ReelShelf from '@/components/ReelShelf.vue'
import RoadStates from '@/components/RoadStates.vue'
import WhatIf from '@/components/WhatIf.vue'

/** By what every fuse and wire is sized, what it takes, and what a change of mind would change. */
const id = useBuildId()
const { data: build } = useBuild(id)
const { data: rules, error } = useRules(id)
</script>

<template>
  <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
  <p v-else-if="!rules || !build" class="empty">Sizing every fuse and wire…</p>
  <div v-else class="size">
    <header>
      <h1>Size</h1>
      <span class="quiet">
        what decides every fuse and wire beside the car itself · the sizes are in
        <RouterLink :to="{ name: 'circuits', params: { id } }">Circuits</RouterLink>
      </span>
    </header>
    <div class="columns">
      <DropSchools :build="build" :rules="rules" />
      <ReelShelf :build="build" :rules="rules" />
      <WhatIf class="whole" :build="build" :rules="rules" />
      <RoadStates class="whole" :build="build" :roads="rules.roads" />
    </div>
  </div>
</template>

<style scoped>
.size {
  height: 100%;
  overflow-y: auto;
  padding: 10px 14px 16px;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: baseline;
  margin-bottom: 8px;
}

.columns {
  display: grid;
  gap: 10px;
  align-items: start;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
}

.whole {
  grid-column: 1 / -1;
}

@media (max-width: 1000px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
