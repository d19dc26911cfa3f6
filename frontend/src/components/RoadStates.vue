<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { fixed } from '@/format'

/** What is on in each road state: a grid of loads and states, each cell to be changed. */
const props = defineProps<{ build: BuildView; roads: Schemas['RoadStateView'][] }>()
const { edit } = useEdits(useBuildId())

const loads = computed(() =>
  props.build.parts.filter((part) => part.kind === 'load' && (part.circuit || props.roads.some((road) => road.on.includes(part.id)))),
)

function name(label: string, road: string, on: string[] | null): Promise<boolean> {
  const named = { ...props.build.policy.road_states }
  if (on) named[road] = on
  else delete named[road]
  return edit(label, [{ op: 'change', collection: 'build', id: 'build', fields: { policy: { road_states: named } } }])
}

function toggle(road: Schemas['RoadStateView'], load: string): void {
  const off = road.on.includes(load)
  const part = loads.value.find((row) => row.id === load)?.name
  void name(`${part} ${off ? 'off' : 'on'}: ${road.name}`, road.name, off ? road.on.filter((id) => id !== load) : [...road.on, load])
}
</script>

<template>
  <section class="sheet" aria-label="Road states">
    <h2>Road states</h2>
    <p class="quiet">
      Volts are judged with the circuit at full and what is on anyway, not with everything at once. Ticks are what is on; change them where your car differs.
    </p>
    <div class="scrolls">
      <table>
        <thead>
          <tr>
            <th scope="col">Load</th>
            <th v-for="road in roads" :key="road.name" scope="col">
              {{ road.name }}
              <small>
                key {{ road.key }}{{ road.battery_a === null ? '' : ` · ${fixed(road.battery_a, 0)} A` }}
              </small>
              <button v-if="road.named" type="button" class="plain" @click="name(`${road.name} as usual`, road.name, null)">as usual</button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="load in loads" :key="load.id">
            <th scope="row">{{ load.name }}</th>
            <td v-for="road in roads" :key="road.name" :class="{ own: road.on.includes(load.id) !== road.usual.includes(load.id) }">
              <input
                type="checkbox"
                :checked="road.on.includes(load.id)"
                :aria-label="`${load.name}, ${road.name}`"
                @change="toggle(road, load.id)"
              />
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
section {
  padding: 10px 14px;
}

.scrolls {
  max-height: 340px;
  overflow: auto;
}

thead th {
  position: sticky;
  z-index: 1;
  top: 0;
  background: var(--sheet);
  vertical-align: bottom;
}

thead small {
  display: block;
  color: var(--quiet);
  font-weight: 400;
}

tbody th {
  font-weight: 400;
  text-align: left;
}

td {
  padding: 1px 8px;
}

td.own {
  background: var(--copper-wash);
}
</style>
