<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { useEdits } from '@/api/edits'
import { useBuild, useBuildId, useFeeds } from '@/api/queries'
import { byId } from '@/byId'
import FeedPoint from '@/components/FeedPoint.vue'
import FeedTabs from '@/components/FeedTabs.vue'
import GroundSign from '@/components/GroundSign.vue'
import MoveCircuit from '@/components/MoveCircuit.vue'
import { fixed } from '@/format'

/** The supply from battery to ways, and the grounds that bring it back. Circuits move between them. */
const id = useBuildId()
const { data: build } = useBuild(id)
const { data: feeds, error } = useFeeds(id)
const { edit } = useEdits(id)

const chosen = ref<string[]>([])
const dragged = ref<string | null>(null)

const names = computed(() => new Map(build.value?.circuits.map((row) => [row.id, row.name])))
const known = computed(() => chosen.value.filter((circuit) => names.value.has(circuit)))

/** A press chooses one circuit; with Shift or Ctrl it joins those chosen before. */
function choose(circuit: string, more: boolean): void {
  const others = chosen.value.filter((row) => row !== circuit)
  if (more) chosen.value = others.length < chosen.value.length ? others : [...others, circuit]
  else chosen.value = chosen.value.length === 1 && !others.length ? [] : [circuit]
}

async function drop(panel: string, way: string): Promise<void> {
  const circuit = dragged.value
  dragged.value = null
  if (!circuit) return
  const where = byId(build.value?.parts).get(panel)?.name
  await edit(`Move ${names.value.get(circuit)} to ${way} of ${where}`, [
    { op: 'move_circuit', circuit, panel, way, any_key: true },
  ])
}

async function dropOnPanel(panel: string, name: string): Promise<void> {
  const circuit = dragged.value
  dragged.value = null
  if (circuit) await edit(`Move ${names.value.get(circuit)} to ${name}`, [{ op: 'move_circuit', circuit, panel }])
}

async function dropOnGround(ground: string, name: string): Promise<void> {
  const circuit = dragged.value
  dragged.value = null
  if (circuit) {
    await edit(`Return ${names.value.get(circuit)} to ${name}`, [{ op: 'move_circuit', circuit, ground }])
  }
}

const panels = computed(() => build.value?.parts.filter((part) => part.kind === 'panel') ?? [])

const KEYS = ['off', 'accessory', 'run', 'crank']
</script>

<template>
  <section class="page">
  <FeedTabs />
  <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
  <p v-else-if="!feeds || !build" class="empty">Adding up every feed…</p>
  <div v-else class="feeds">
    <header>
      <h1>Feeds and grounds</h1>
      <span class="quiet">the most in each position of the key, however the switches stand · spare is what the fuse may still carry for ever</span>
      <RouterLink :to="{ name: 'functions', params: { id, recipe: 'sub-panel' } }">
        <AButton size="small">Add a feed…</AButton>
      </RouterLink>
    </header>

    <div class="moving sheet" :class="{ idle: !known.length }">
      <template v-if="known.length">
        <b>{{ known.map((row) => names.get(row)).join(', ') }}</b>
        <MoveCircuit :build="build" :circuits="known" @moved="chosen = []" />
        <button type="button" class="plain" @click="chosen = []">choose none</button>
      </template>
      <span v-else class="quiet">
        Press a circuit to move it, Shift and press for several, or drag one to a free way, a panel or a ground.
      </span>
    </div>

    <div v-if="dragged" class="dock" aria-label="Drop it here">
      <b>{{ names.get(dragged) }} to</b>
      <span v-for="row in panels" :key="row.id" @dragover.prevent @drop.prevent="dropOnPanel(row.id, row.name)">
        {{ row.name }}, a free way
      </span>
      <span v-for="row in feeds.grounds" :key="row.id" class="ground" @dragover.prevent @drop.prevent="dropOnGround(row.id, row.name)">
        <GroundSign /> {{ row.name }}
      </span>
    </div>

    <section class="sheet" aria-label="Supply">
      <FeedPoint :point="feeds.root" :chosen="known" :dragged="dragged" @choose="choose" @drag="(row) => (dragged = row)" @drop="drop" />
      <template v-if="feeds.loose.length">
        <h2 class="loose">Not fed yet</h2>
        <FeedPoint
          v-for="row in feeds.loose"
          :key="row.id"
          :point="row"
          :chosen="known"
          :dragged="dragged"
          @choose="choose"
          @drag="(circuit) => (dragged = circuit)"
          @drop="drop"
        />
      </template>
    </section>

    <section class="sheet" aria-label="Grounds">
      <h2 id="grounds">Grounds</h2>
      <table aria-labelledby="grounds">
        <thead>
          <tr>
            <th scope="col">Ground point</th>
            <th scope="col">Where</th>
            <th scope="col">Way back</th>
            <th scope="col" class="figure">Rings</th>
            <th v-for="key in KEYS" :key="key" scope="col" class="figure">{{ key }}, A</th>
            <th scope="col">Returns</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="row in feeds.grounds"
            :key="row.id"
            :class="{ open: dragged }"
            @dragover.prevent
            @drop.prevent="dropOnGround(row.id, row.name)"
          >
            <th scope="row"><GroundSign /> {{ row.name }}</th>
            <td>{{ row.place }}</td>
            <td :class="{ over: !row.back }">{{ row.back || 'none' }}</td>
            <td class="figure" :class="{ crowded: row.rings > (row.most_rings ?? Infinity) }" :title="row.most_rings ? `${row.most_rings} at most on one stud: share a ring, or add a stud` : undefined">
              {{ row.rings }}
            </td>
            <td v-for="key in KEYS" :key="key" class="figure">{{ key in row.sums_a ? fixed(row.sums_a[key], 1) : '' }}</td>
            <td class="quiet returns">{{ row.circuits.map((one) => one.name).join(', ') }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="!feeds.grounds.length" class="quiet none">No ground point yet: every return needs one.</p>
    </section>
  </div>
  </section>
</template>

<style scoped src="@/page.css"></style>
<style scoped>
.feeds {
  display: flex;
  min-height: 0;
  flex: 1;
  overflow-y: auto;
  flex-direction: column;
  gap: 8px;
  padding: 10px 14px 16px;
}

.feeds > * {
  flex: none;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}

header a {
  margin-left: auto;
}

.moving {
  position: sticky;
  z-index: 2;
  top: -10px;
  display: flex;
  min-height: 36px;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  padding: 4px 10px;
  border-left: 4px solid var(--copper);
}

.moving.idle {
  border-left-color: var(--rule);
}

section.sheet {
  padding: 6px 8px;
}

.dock {
  position: fixed;
  z-index: 3;
  right: 14px;
  bottom: 46px;
  left: 186px;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: center;
  padding: 8px 10px;
  border: 1px solid var(--copper);
  border-radius: 3px;
  background: var(--sheet);
  box-shadow: 0 2px 10px rgb(0 0 0 / 20%);
}

.dock span {
  padding: 4px 10px;
  border: 1px dashed var(--copper);
  border-radius: 3px;
  color: var(--copper);
}

.dock .ground {
  border-color: var(--teal);
  color: var(--teal);
}

@media (max-width: 900px) {
  .dock {
    left: 14px;
  }
}

.loose {
  margin: 8px 6px 2px;
  color: var(--ochre);
}

td,
tbody th {
  border-bottom: 1px solid var(--rule);
  font-size: 13px;
}

tbody th {
  color: var(--teal);
}

tr.open th,
tr.open td {
  background: color-mix(in srgb, var(--teal) 9%, transparent);
}

.returns {
  max-width: 420px;
}

.over {
  color: var(--brick);
  font-weight: 600;
}

.crowded {
  color: var(--ochre);
  font-weight: 600;
}

.none {
  padding: 6px;
}
</style>
