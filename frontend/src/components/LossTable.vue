<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { byId } from '@/byId'

/** Which functions are dead, whole or in part, when one bus, module or keypad is lost. */
const props = defineProps<{ losses: Schemas['Loss'][]; build: BuildView }>()

interface Cell {
  word: string
  title: string
}

const parts = computed(() => byId(props.build.parts))
const rows = computed(() => {
  const loads = new Set(props.losses.flatMap((row) => [...row.dead, ...row.left]))
  const circuits = props.build.circuits.filter((circuit) =>
    [...loads].some((load) => parts.value.get(load)?.circuit === circuit.id),
  )
  return circuits.map((circuit) => ({ circuit, cells: props.losses.map((loss) => cell(loss, circuit.id)) }))
})

function cell(loss: Schemas['Loss'], circuit: string): Cell {
  const mine = (loads: string[]): string[] => loads.filter((load) => parts.value.get(load)?.circuit === circuit)
  const dead = mine(loss.dead)
  const left = mine(loss.left)
  const names = dead.map((load) => parts.value.get(load)?.name).join(', ')
  if (!dead.length) return { word: 'works', title: '' }
  if (!left.length) return { word: 'dead', title: names }
  return { word: `${left.length} of ${left.length + dead.length}`, title: `dead: ${names}` }
}
</script>

<template>
  <section class="sheet" aria-label="If one is lost">
    <h2>If one is lost</h2>
    <p class="quiet">Solved with each of them dead. What still works, function by function.</p>
    <table>
      <thead>
        <tr>
          <th scope="col">Function</th>
          <th v-for="loss in losses" :key="loss.id" scope="col">{{ loss.name }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.circuit.id">
          <th scope="row">
            {{ row.circuit.name }} <small v-if="row.circuit.criticality === 'safety'" class="quiet">safety</small>
          </th>
          <td
            v-for="(one, at) in row.cells"
            :key="at"
            :class="{ dead: one.word === 'dead', part: one.title && one.word !== 'dead', safety: row.circuit.criticality === 'safety' }"
            :title="one.title"
          >
            {{ one.word }}
          </td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
section {
  overflow-x: auto;
  padding: 6px 10px 8px;
}

p {
  margin: 0 0 4px;
}

table {
  width: auto;
}

tbody th,
tbody td {
  padding: 2px 14px 2px 4px;
  border-bottom: 1px solid var(--rule);
  font-size: 13px;
  text-align: left;
}

td {
  color: var(--quiet);
}

td.part {
  color: var(--ochre);
  font-weight: 600;
}

td.dead {
  color: var(--ink);
  font-weight: 600;
}

td.dead.safety {
  color: var(--brick);
}
</style>
