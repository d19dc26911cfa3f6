<script setup lang="ts">
import { computed, ref } from 'vue'

import { useEdits } from '@/api/edits'
import { useBuild, useBuildId, useLayout } from '@/api/queries'
import BodyFigures from '@/components/BodyFigures.vue'
import LayoutPlan from '@/components/LayoutPlan.vue'
import PlacementQuestion from '@/components/PlacementQuestion.vue'
import PlacesTable from '@/components/PlacesTable.vue'
import RunsTable from '@/components/RunsTable.vue'
import WiresTable from '@/components/WiresTable.vue'
import { fixed } from '@/format'
import { change } from '@/looms'

const TABS = ['Places', 'Runs', 'Wires', 'Where to put it', 'Car'] as const
type Tab = (typeof TABS)[number]

const id = useBuildId()
const { data: build } = useBuild(id)
const { data: layout, error } = useLayout(id)
const { edit } = useEdits(id)

const tab = ref<Tab>('Runs')
const place = ref<string | null>(null)
const run = ref<string | null>(null)
const wire = ref<string | null>(null)
const joining = ref<string | null>(null)

const lit = computed(() => (wire.value ? (layout.value?.wires[wire.value]?.runs ?? []) : []))
const measured = computed(() => build.value?.runs.filter((row) => row.measured).length ?? 0)

function choosePlace(chosen: string): void {
  place.value = chosen
  tab.value = 'Places'
}

function chooseRun(chosen: string): void {
  run.value = chosen
  tab.value = 'Runs'
}

function chooseWire(chosen: string): void {
  wire.value = chosen
  tab.value = 'Wires'
}

function nameOf(spot: string | null): string {
  return build.value?.places.find((row) => row.id === spot)?.name ?? ''
}

function move(spot: string, x_m: number, y_m: number): void {
  const fields = { x_m: Math.round(x_m * 1000) / 1000, y_m: Math.round(y_m * 1000) / 1000 }
  void edit(`Move ${nameOf(spot)} on the plan`, [change('places', spot, fields)])
}

async function join(first: string, last: string): Promise<void> {
  joining.value = null
  const before = new Set(build.value?.runs.map((row) => row.id))
  const cells = { from: first, to: last }
  await edit(`Join ${nameOf(first)} and ${nameOf(last)}`, [{ op: 'set_run', cells }], () => {
    const fresh = build.value?.runs.find((row) => !before.has(row.id))
    if (fresh) chooseRun(fresh.id)
  })
}
</script>

<template>
  <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
  <div v-if="build" class="layout">
    <div class="plan">
      <p class="head no-print">
        <b>{{ build.places.length }} places, {{ build.runs.length }} runs, {{ measured }} measured</b>
        <span v-if="layout" class="quiet">
          {{ fixed(layout.loom.total_m, 1) }} m of wire, {{ fixed(layout.loom.mass_kg, 2) }} kg, of it
          {{ fixed(layout.loom.copper_kg, 2) }} kg copper
        </span>
        <span v-if="joining" class="joining" role="status">
          From {{ nameOf(joining) }} to…? Choose the other end.
          <button type="button" @click="joining = null">Leave it</button>
        </span>
      </p>
      <LayoutPlan
        :build="build"
        :layout="layout"
        :place="place"
        :run="run"
        :lit="lit"
        :joining="joining"
        @place="choosePlace"
        @run="chooseRun"
        @move="move"
        @join="join"
        @begin="(spot) => (joining = spot)"
        @keydown.esc="joining = null"
      />
      <p class="legend quiet no-print">
        Drag a place, or move it by arrow keys (Shift: finely): the measured lengths stay. J on a place
        starts a run. Dashed: length still guessed. Width: the bundle.
      </p>
    </div>
    <div class="tables">
      <nav role="tablist" aria-label="Layout" class="no-print">
        <button
          v-for="one in TABS"
          :key="one"
          type="button"
          role="tab"
          :aria-selected="tab === one"
          @click="tab = one"
        >
          {{ one }}
        </button>
      </nav>
      <PlacesTable
        v-if="tab === 'Places'"
        v-model:chosen="place"
        :build="build"
        :layout="layout"
        @join="(spot) => (joining = spot)"
      />
      <RunsTable v-else-if="tab === 'Runs'" v-model:chosen="run" :build="build" :layout="layout" @wire="chooseWire" />
      <WiresTable v-else-if="tab === 'Wires'" v-model:chosen="wire" :build="build" :layout="layout" @run="chooseRun" />
      <PlacementQuestion v-else-if="tab === 'Where to put it'" :build="build" />
      <BodyFigures v-else :build="build" :layout="layout" />
    </div>
  </div>
</template>

<style scoped>
.layout {
  display: grid;
  height: 100%;
  grid-template-columns: minmax(380px, 1fr) 600px;
}

.plan {
  display: flex;
  min-height: 0;
  flex-direction: column;
  border-right: 1px solid var(--rule);
}

.plan svg {
  min-height: 0;
  flex: 1;
}

.head {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
  padding: 8px 12px 0;
  margin: 0;
}

.head b {
  font-family: var(--heading);
  font-size: 17px;
}

.joining {
  color: var(--amber-ink);
  font-weight: 600;
}

.joining button {
  border: 1px solid currentcolor;
  border-radius: 3px;
  background: none;
  color: inherit;
  cursor: pointer;
}

.legend {
  padding: 0 12px 6px;
  margin: 0;
  font-size: 13px;
}

.tables {
  display: flex;
  min-height: 0;
  flex-direction: column;
  overflow: hidden;
  background: var(--sheet);
}

nav {
  display: flex;
  gap: 2px;
  padding: 6px 8px 0;
  border-bottom: 1px solid var(--rule);
  background: var(--card);
}

nav button {
  padding: 4px 12px 5px;
  border: 1px solid transparent;
  border-bottom: 0;
  border-radius: 3px 3px 0 0;
  background: none;
  color: var(--ink);
  cursor: pointer;
  font-family: var(--heading);
  font-size: 16px;
  font-weight: 600;
}

nav button[aria-selected='true'] {
  border-color: var(--rule);
  margin-bottom: -1px;
  background: var(--sheet);
  color: var(--copper);
}

@media (max-width: 1000px) {
  .layout {
    height: auto;
    grid-template-columns: minmax(0, 1fr);
  }

  .plan {
    height: 620px;
    border-right: 0;
    border-bottom: 1px solid var(--rule);
  }

  .tables {
    overflow: visible;
  }
}
</style>
