<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { useBuild, useBuildId, useOverview } from '@/api/queries'
import { byId } from '@/byId'
import DrawingSheet from '@/components/DrawingSheet.vue'
import FeedTabs from '@/components/FeedTabs.vue'

/** The whole car on one sheet, from the battery to its loads; branches fold and unfold. */
const LEVELS = { feeds: 'feeds', fuses: 'and fuses', functions: 'and functions', loads: 'and every load' }

const id = useBuildId()
const route = useRoute()
const router = useRouter()
const { data: build } = useBuild(id)

const level = computed({
  get: () => String(route.query.level ?? 'loads'),
  set: (asked) => void router.replace({ query: { level: asked } }),
})
const turned = ref<string[]>([])
watch(level, () => (turned.value = []))
const { data: drawing, isFetching, error } = useOverview(id, level, turned)

const asked = computed(() => new URLSearchParams({ level: level.value, turned: turned.value.join('\n') }).toString())

/** A press folds or unfolds a branch; one on a load leads to its circuit. */
function press(branch: string): void {
  const load = byId(build.value?.parts).get(branch)
  if (load?.kind === 'load') {
    if (load.circuit) void router.push({ name: 'circuits', params: { id: id.value, circuit: load.circuit } })
    return
  }
  turned.value = turned.value.includes(branch) ? turned.value.filter((row) => row !== branch) : [...turned.value, branch]
}
</script>

<template>
  <section class="page">
    <FeedTabs />
    <div class="overview">
      <header>
        <h1>Overview</h1>
        <label>
          Show feeds
          <select v-model="level" class="field">
            <option v-for="(says, name) in LEVELS" :key="name" :value="name">{{ says }}</option>
          </select>
        </label>
        <span class="quiet">Press a branch to fold it or unfold it, a load to see its circuit. Amps at most, in any key position.</span>
      </header>
      <DrawingSheet
        :drawing="drawing"
        title="the whole car"
        :file="`/api/builds/${id}/overview`"
        :query="asked"
        :refused="error?.message"
        :comes="isFetching"
        @open="press"
      />
    </div>
  </section>
</template>

<style scoped src="@/page.css"></style>
<style scoped>
.overview {
  display: flex;
  min-height: 0;
  flex: 1;
  flex-direction: column;
  gap: 8px;
  padding: 10px 14px 16px;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
}

header span {
  flex: 1 1 260px;
}

.overview :deep(section) {
  min-height: 260px;
  flex: 1;
  display: flex;
  flex-direction: column;
}

.overview :deep(.sheet) {
  max-height: none;
  flex: 1;
}
</style>
