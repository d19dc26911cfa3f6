<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { defineAsyncComponent, nextTick, onBeforeUnmount, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { conflict, refusal, useEdits } from '@/api/edits'
import { useBuild, useBuildId } from '@/api/queries'
import AppHeader from '@/components/AppHeader.vue'
import LastTime from '@/components/LastTime.vue'
import FindingsTray from '@/components/FindingsTray.vue'
import PlainBar from '@/components/PlainBar.vue'
import RouteCard from '@/components/RouteCard.vue'
import SafetyLine from '@/components/SafetyLine.vue'
import TroubleBar from '@/components/TroubleBar.vue'
import WalkBar from '@/components/WalkBar.vue'
import { clock } from '@/format'
import { useShortcuts } from '@/shortcuts'
import { stages } from '@/stages'
import { KEYS, useLive } from '@/stores/live'

const FindAnything = defineAsyncComponent(() => import('@/components/FindAnything.vue'))
const HelpSheet = defineAsyncComponent(() => import('@/components/HelpSheet.vue'))

const id = useBuildId()
const route = useRoute()
const router = useRouter()
const live = useLive()
const { data: build, error, dataUpdatedAt, isFetching, refetch } = useBuild(id)
const { undo, redo } = useEdits(id)
const helpOpen = ref(false)
const findingsOpen = ref(false)
const findOpen = ref(false)

const FRAME_S = 0.04
const CALM_S = 0.25
/** Each screen shows what is live; the bench as it moves, the others a few times a second. */
watch(
  [id, () => route.name === 'bench', () => build.value !== undefined],
  ([of, moving, known]) => live.follow(known ? of : 0, moving ? FRAME_S : CALM_S),
  { immediate: true },
)
onBeforeUnmount(() => live.follow(0, CALM_S))
const shown = ref<HTMLElement>()
watch(() => route.name, async () => {
  clearTrouble()
  await nextTick()
  // what had the focus is gone with its view: the keyboard goes on in the next one
  if (document.activeElement === document.body) shown.value?.focus({ preventScroll: true })
})
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

let cranks = false
useShortcuts({
  stage: (number) => stages[number - 1] && go(stages[number - 1]!.name),
  key: (position) => {
    cranks = KEYS[position] === 'crank'
    void live.do({ do: 'key', to: KEYS[position]! })
  },
  letGo: () => {
    if (cranks) void live.do({ do: 'key', to: 'run' })
    cranks = false
  },
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
  <div v-if="!build" class="frame">
    <PlainBar />
    <main class="alone">
      <div v-if="error" class="refusal" role="alert">
        <h1>This build is not open</h1>
        <p>{{ error.message }}</p>
        <AButton type="primary" :loading="isFetching" @click="refetch()">Try again</AButton>
        <RouterLink :to="{ name: 'builds' }">All builds</RouterLink>
      </div>
      <p v-else class="empty" role="status">Opening the build…</p>
    </main>
  </div>
  <div v-else class="frame">
    <AppHeader class="no-print" @help="helpOpen = true" @find="findOpen = true" />
    <p v-if="error" class="refusal no-print" role="alert">
      <b>What you see is of {{ clock(dataUpdatedAt) }}, and may have changed.</b>
      {{ error.message }}
    </p>
    <TroubleBar />
    <LastTime :key="id" />
    <div class="middle">
      <RouteCard class="no-print" />
      <main ref="shown" tabindex="-1"><RouterView /></main>
    </div>
    <WalkBar :build="id" />
    <FindingsTray v-model:open="findingsOpen"><SafetyLine /></FindingsTray>
    <FindAnything v-if="findOpen" v-model:open="findOpen" />
    <HelpSheet v-if="helpOpen" v-model:open="helpOpen" />
  </div>
</template>

<style scoped>
.frame {
  display: flex;
  height: 100%;
  flex-direction: column;
}

.alone {
  max-width: 860px;
  width: 100%;
  margin: 0 auto;
  padding: 28px 16px;
}

.alone .refusal h1 {
  margin-bottom: 6px;
}

.alone .refusal a {
  margin-left: 14px;
}

.middle {
  display: flex;
  min-height: 0;
  flex: 1;
}

main {
  position: relative;
  min-width: 0;
  flex: 1;
  overflow: auto;
  outline: none;
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
