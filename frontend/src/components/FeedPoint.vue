<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { useBuild, useBuildId } from '@/api/queries'
import { byId } from '@/byId'
import { fixed } from '@/format'
import { useLive } from '@/stores/live'

import PartDetail from './PartDetail.vue'

/** One point of the supply with its ways and what it feeds; a circuit can be dropped on a free way. */
const props = defineProps<{
  point: Schemas['FeedPoint']
  chosen: string[]
  dragged: string | null
  depth?: number
}>()
const emit = defineEmits<{
  choose: [circuit: string, more: boolean]
  drag: [circuit: string | null]
  drop: [panel: string, way: string]
}>()

const KEYS: Record<string, string> = { off: 'off', accessory: 'acc.', run: 'run', crank: 'crank' }
const panel = computed(() => props.point.id.split('.')[0]!)
const { data: build } = useBuild(useBuildId())
const part = computed(() => byId(build.value?.parts).get(panel.value))
const opened = ref(false)
const used = computed(() => props.point.ways.filter((way) => way.fuse || way.circuits.length))
const spare = computed(() => props.point.ways.filter((way) => !way.fuse && !way.circuits.length))
const most = computed(() => Math.max(0, ...Object.values(props.point.sums_a)))
const crowded = computed(() => props.point.most_rings !== null && props.point.rings > props.point.most_rings)

const live = useLive()
/** What leaves a way now, in A; empty while nothing is live. */
function now(way: string): string {
  if (!live.isLive) return ''
  const end = `${panel.value}.${way}`
  const leaving = (build.value?.wires ?? []).filter((wire) => wire.from_terminal === end || wire.to_terminal === end)
  return fixed(leaving.reduce((sum, wire) => sum + Math.abs(live.wireAmps(wire.id) ?? 0), 0), 1)
}

function sums(row: Record<string, number>): string {
  return Object.entries(KEYS)
    .filter(([key]) => key in row)
    .map(([key, said]) => `${said} ${fixed(row[key], 1)}`)
    .join(' · ')
}
</script>

<template>
  <div class="point" :class="point.kind.replace(' ', '-')">
    <div class="head">
      <span class="sign" aria-hidden="true" :class="point.kind.replace(' ', '-')"></span>
      <b>{{ point.name }}</b>
      <span v-if="point.rating_a" class="rating">{{ point.rating_a }} A</span>
      <span v-if="point.key && point.kind !== 'battery'" class="key">{{ point.key === 'always' ? 'always live' : `live from ${point.key}` }}</span>
      <span class="sum" :title="sums(point.sums_a)">
        <template v-if="most">{{ sums(point.sums_a) }} A</template>
      </span>
      <span v-if="point.spare_a !== null" class="spare" :class="{ over: point.spare_a < 0 }">
        {{ point.spare_a < 0 ? `${fixed(-point.spare_a, 1)} A over` : `${fixed(point.spare_a, 1)} A spare` }}
      </span>
      <span v-if="point.most_rings !== null" class="rings" :class="{ over: crowded }">
        {{ point.rings }} rings, {{ point.most_rings }} at most
      </span>
      <button v-if="point.ways.length" type="button" class="used" :aria-expanded="opened" @click="opened = !opened">
        {{ used.length }} of {{ point.ways.length }} used…
      </button>
    </div>
    <PartDetail v-if="opened && build && part" :build="build" :part="part" />
    <table v-if="point.ways.length">
      <thead v-if="used.length">
        <tr>
          <th scope="col">Way</th>
          <th scope="col" class="figure">{{ point.kind === 'module' ? 'Limit' : 'Fuse' }}</th>
          <th scope="col">Feeds</th>
          <th v-if="live.isLive" scope="col" class="figure">Now, A</th>
          <th scope="col" class="figure">Most by key, A</th>
          <th scope="col" class="figure">Spare, A</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="way in used"
          :key="way.name"
          :class="{ over: (way.spare_a ?? 0) < 0 }"
        >
          <th scope="row">{{ way.name }}</th>
          <td class="figure rating">{{ way.rating_a ? `${way.rating_a} A` : '' }}</td>
          <td class="circuits">
            <button
              v-for="row in way.circuits"
              :key="row.circuit"
              type="button"
              draggable="true"
              :class="{ chosen: chosen.includes(row.circuit) }"
              :aria-pressed="chosen.includes(row.circuit)"
              @click="emit('choose', row.circuit, $event.shiftKey || $event.ctrlKey || $event.metaKey)"
              @dragstart="emit('drag', row.circuit)"
              @dragend="emit('drag', null)"
            >
              {{ row.name }}
            </button>
            <span v-if="way.when" class="quiet">on {{ way.when }}</span>
          </td>
          <td v-if="live.isLive" class="figure live">{{ now(way.name) }}</td>
          <td class="figure quiet sums">{{ sums(way.sums_a) }}</td>
          <td class="figure">
            <template v-if="way.spare_a !== null">{{ fixed(way.spare_a, 1) }}</template>
          </td>
        </tr>
        <tr v-if="spare.length" class="free">
          <th scope="row">free</th>
          <td :colspan="live.isLive ? 5 : 4">
            <span
              v-for="way in spare"
              :key="way.name"
              class="way"
              :class="{ open: dragged && point.kind === 'panel' }"
              @dragover="point.kind === 'panel' && $event.preventDefault()"
              @drop.prevent="emit('drop', panel, way.name)"
            >
              {{ way.name }}
            </span>
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="point.points.length" class="under">
      <FeedPoint
        v-for="row in point.points"
        :key="row.id"
        :point="row"
        :chosen="chosen"
        :dragged="dragged"
        @choose="(circuit, more) => emit('choose', circuit, more)"
        @drag="(circuit) => emit('drag', circuit)"
        @drop="(to, way) => emit('drop', to, way)"
      />
    </div>
  </div>
</template>

<style scoped>
.point {
  position: relative;
}

.head {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
  padding: 3px 6px;
}

.sign {
  width: 10px;
  height: 10px;
  border: 1.5px solid var(--ink);
  background: var(--sheet);
}

.sign.fuse {
  width: 16px;
  height: 8px;
  border-radius: 2px;
}

.sign.stud,
.sign.bus-bar {
  border-radius: 50%;
  background: var(--ink);
}

.sign.battery {
  width: 14px;
  background: var(--copper);
}

.sign.relay {
  border-style: dashed;
}

.rating {
  font-weight: 600;
}

.key {
  color: var(--amber-ink);
}

.sum {
  margin-left: auto;
  color: var(--quiet);
}

.used {
  padding: 0;
  border: 0;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
}

.rings.over {
  color: var(--ochre);
}

.over,
.over .figure {
  color: var(--brick);
  font-weight: 600;
}

.under {
  padding-left: 14px;
  border-left: 1.5px solid var(--rule);
  margin-left: 10px;
}

table {
  width: calc(100% - 24px);
  margin: 0 0 4px 24px;
  background: var(--sheet);
}

th,
td {
  padding: 1px 6px;
  border-bottom: 1px solid var(--rule);
  font-size: 13px;
}

tbody th {
  width: 38px;
}

thead th {
  padding: 0 6px;
  font-size: 12px;
}

td.rating {
  width: 52px;
}

.sums {
  width: 250px;
}

.circuits button {
  padding: 0 6px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  color: var(--copper);
  cursor: grab;
  font: inherit;
}

.circuits button.chosen {
  border-color: var(--copper);
  background: var(--copper-wash);
  font-weight: 600;
}

.way {
  display: inline-block;
  padding: 0 6px;
  border: 1px dashed color-mix(in srgb, var(--quiet) 60%, transparent);
  border-radius: 3px;
  margin: 1px 4px 1px 0;
  color: var(--quiet);
}

.way.open {
  border-color: var(--copper);
  background: var(--copper-wash);
  color: var(--copper);
}

@media (max-width: 700px) {
  .under {
    padding-left: 5px;
    margin-left: 4px;
  }

  table {
    width: 100%;
    margin-left: 0;
  }

  .sums {
    width: auto;
  }
}
</style>
