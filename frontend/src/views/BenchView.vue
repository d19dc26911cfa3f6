<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import { useBuild, useBuildId, useResults, useSchematic } from '@/api/queries'
import { byId } from '@/byId'
import BenchChosen from '@/components/BenchChosen.vue'
import BenchControls from '@/components/BenchControls.vue'
import BenchFaults from '@/components/BenchFaults.vue'
import BenchLoads from '@/components/BenchLoads.vue'
import BenchMeters from '@/components/BenchMeters.vue'
import BenchPanel from '@/components/BenchPanel.vue'
import BenchPlan from '@/components/BenchPlan.vue'
import BenchTape from '@/components/BenchTape.vue'
import BenchTime from '@/components/BenchTime.vue'
import DrawingSheet from '@/components/DrawingSheet.vue'
import { useSound } from '@/sound'
import { useLive } from '@/stores/live'

const id = useBuildId()
const route = useRoute()
const live = useLive()
const { data: build } = useBuild(id)
const { data: results } = useResults(id)

const chosen = ref<string | null>(null)
const active = ref<{ meter: string; probe: 'red' | 'black' }>({ meter: '1', probe: 'red' })
const byHeat = ref(false)
const sound = useSound(() => build.value)
const below = ref<'tape' | 'loads' | 'drawing'>('tape')
const meters = ref<InstanceType<typeof BenchMeters>>()
const part = computed(() => byId(build.value?.parts).get(chosen.value))
const circuit = computed(() => part.value?.circuit ?? undefined)
const { data: drawing, isFetching: drawingComes, error: drawingError } = useSchematic(id, circuit)

/** A link names a session that was kept, and the moment to stand still at. */
const stop = watch(
  () => live.session,
  (session) => {
    if (!session) return
    stop()
    const { session: kept, at } = route.query
    if (kept) void live.openKept(Number(kept), at === undefined ? null : Number(at))
  },
  { immediate: false },
)

function across(load: string): void {
  chosen.value = load
  const row = byId(build.value?.parts).get(load)
  const ends = ['+', '-'].map((name) => (row?.housed ? `${row.housed.unit}.${row.housed.pins[name]}` : `${load}.${name}`))
  if (!ends.some((end) => end.endsWith('undefined'))) meters.value?.across(ends[0]!, ends[1]!)
}
</script>

<template>
  <div v-if="build" class="bench" :class="{ drawn: below === 'drawing' }">
    <aside class="controls-pane"><BenchControls :build="build" /></aside>
    <div class="middle">
      <BenchTime />
      <p v-if="live.lost" class="refusal" role="alert">The bench is out of touch; it goes on where it was once it answers.</p>
      <p v-else-if="live.refused" class="refusal" role="alert">{{ live.refused }}</p>
      <p v-else-if="live.calm && !live.calm.settled" class="refusal" role="alert">
        The voltages do not settle in this state. Take a fault out, or go back to before it.
      </p>
      <div class="stage">
        <BenchPlan :build="build" :results="results" :chosen="chosen" :by-heat="byHeat" @choose="chosen = $event" />
      </div>
    </div>
    <div class="instruments">
      <BenchChosen
        v-if="part"
        :build="build"
        :part="part"
        :active="active"
        @pick="meters?.pick($event)"
        @across="across(part.id)"
        @clamp="meters?.clampOn($event)"
        @close="chosen = null"
      />
      <BenchMeters ref="meters" v-model:active="active" :build="build" />
      <BenchPanel :build="build" :results="results" @choose="chosen = $event" />
      <BenchFaults :build="build" :chosen="chosen" />
    </div>
    <div class="below">
      <div class="tabs">
        <div role="tablist" aria-label="Below the plan">
          <button role="tab" :aria-selected="below === 'tape'" @click="below = 'tape'">What happened</button>
          <button role="tab" :aria-selected="below === 'loads'" @click="below = 'loads'">Every load</button>
          <button role="tab" :aria-selected="below === 'drawing'" @click="below = 'drawing'">Its circuit</button>
        </div>
        <label class="heat"><input v-model="byHeat" type="checkbox" /> wires by heat</label>
        <label><input v-model="sound" type="checkbox" /> sound</label>
      </div>
      <BenchTape v-if="below === 'tape'" />
      <BenchLoads v-else-if="below === 'loads'" :build="build" @choose="across" />
      <div v-else class="drawing">
        <template v-if="circuit">
          <p class="quiet">Press a terminal: the {{ active.probe }} probe of meter {{ active.meter }} goes there.</p>
          <DrawingSheet :drawing="drawing" :title="part!.name" :live="live.wires" :refused="drawingError?.message" :comes="drawingComes" picks @pick="meters?.pick($event)" />
        </template>
        <p v-else class="empty">Choose something on the plan, and its circuit is drawn here.</p>
      </div>
    </div>
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  height: 100%;
  grid-template-areas: 'controls middle instruments' 'controls below instruments';
  grid-template-columns: 278px minmax(240px, 1fr) 304px;
  grid-template-rows: minmax(0, 1fr) 158px;
}

.bench.drawn {
  grid-template-rows: minmax(0, 1fr) 300px;
}

.drawing {
  overflow: auto;
  padding: 4px 12px;
}

.controls-pane,
.instruments {
  overflow-y: auto;
}

.controls-pane {
  border-right: 1px solid var(--rule);
  grid-area: controls;
}

.middle {
  display: flex;
  min-width: 0;
  min-height: 0;
  flex-direction: column;
  grid-area: middle;
}

.stage {
  position: relative;
  min-height: 0;
  flex: 1;
}

.instruments {
  padding: 8px 10px;
  border-left: 1px solid var(--rule);
  grid-area: instruments;
}

.below {
  display: flex;
  min-height: 0;
  flex-direction: column;
  border-top: 1px solid var(--rule);
  grid-area: below;
}

.below > :last-child {
  min-height: 0;
  flex: 1;
}

.tabs {
  display: flex;
  gap: 4px;
  padding: 2px 10px 0;
  border-bottom: 1px solid var(--rule);
}

.tabs label {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-left: 10px;
}

.tabs .heat {
  margin-left: auto;
}

.tabs button {
  padding: 3px 10px;
  border: 0;
  border-bottom: 2px solid transparent;
  background: none;
  color: var(--quiet);
  cursor: pointer;
  font-family: var(--heading);
  font-size: 15px;
  font-weight: 600;
}

.tabs button[aria-selected='true'] {
  border-bottom-color: var(--copper);
  color: var(--ink);
}

@media (max-width: 1000px) {
  .bench {
    height: auto;
    grid-template-areas: 'middle middle' 'controls instruments' 'below below';
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    grid-template-rows: auto auto auto;
  }

  .stage {
    height: 56vh;
    flex: none;
  }

  .below {
    height: 260px;
  }
}

@media (max-width: 640px) {
  .bench {
    grid-template-areas: 'middle' 'controls' 'instruments' 'below';
    grid-template-columns: minmax(0, 1fr);
  }

  .instruments,
  .controls-pane {
    border: 0;
  }
}
</style>
