<script setup lang="ts">
import { defineAsyncComponent, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { conflict, refusal, useEdits } from '@/api/edits'
import { useBuild, useBuildId } from '@/api/queries'
import AppHeader from '@/components/AppHeader.vue'
import FindingsTray from '@/components/FindingsTray.vue'
import RouteCard from '@/components/RouteCard.vue'
import SafetyLine from '@/components/SafetyLine.vue'
import TroubleBar from '@/components/TroubleBar.vue'
import { useShortcuts } from '@/shortcuts'
import { stages } from '@/stages'
import { KEYS, useBench } from '@/stores/bench'

const FindAnything = defineAsyncComponent(() => import('@/components/FindAnything.vue'))
const ShortcutsHelp = defineAsyncComponent(() => import('@/components/ShortcutsHelp.vue'))

const id = useBuildId()
const route = useRoute()
const router = useRouter()
const bench = useBench()
const { data: build, error } = useBuild(id)
const { undo, redo } = useEdits(id)
const helpOpen = ref(false)
const findingsOpen = ref(false)
const findOpen = ref(false)

watch(() => route.name, clearTrouble)
watch(
  () => build.value?.name,
  (name) => (document.title = name ? `${name} · Oilstone` : 'Oilstone'),
  { immediate: true },
)

function clearTrouble(): void {
  refusal.value = null
  conflict.value = null
}

function go(name: string): Promise<unknown> {
  return router.push({ name, params: { id: id.value } })
}

async function newLine(): Promise<void> {
  await go('stock')
  await nextTick()
  document.getElementById('new-load')?.focus()
}

useShortcuts({
  stage: (number) => stages[number - 1] && go(stages[number - 1]!.name),
  key: (position) => bench.change(id.value, { key: KEYS[position]! }),
  bench: () => go('bench'),
  findings: () => (findingsOpen.value = !findingsOpen.value),
  newLine,
  find: () => (findOpen.value = true),
  undo,
  redo,
  help: () => (helpOpen.value = true),
})
</script>

<template>
  <div class="frame">
    <AppHeader class="no-print" @help="helpOpen = true" @find="findOpen = true" />
    <TroubleBar />
    <div class="middle">
      <RouteCard class="no-print" />
      <main>
        <p v-if="error" class="refusal" role="alert">
          {{ error.message }} <RouterLink :to="{ name: 'builds' }">All builds</RouterLink>
        </p>
        <p v-else-if="!build" class="empty">Opening the build…</p>
        <RouterView v-else />
      </main>
    </div>
    <FindingsTray v-model:open="findingsOpen"><SafetyLine /></FindingsTray>
    <FindAnything v-if="findOpen" v-model:open="findOpen" />
    <ShortcutsHelp v-if="helpOpen" v-model:open="helpOpen" />
  </div>
</template>

<style scoped>
.frame {
  display: flex;
  height: 100%;
  flex-direction: column;
}

.middle {
  display: flex;
  min-height: 0;
  flex: 1;
}

main {
  min-width: 0;
  flex: 1;
  overflow: auto;
}

@media (max-width: 900px) {
  .middle {
    flex-direction: column;
  }
}

@media print {
  .frame {
    height: auto;
  }
}
</style>
