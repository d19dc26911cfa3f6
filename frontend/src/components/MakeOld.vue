<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { byId } from '@/byId'
import { colourCss } from '@/colours'
import { fixed } from '@/format'
import { change } from '@/looms'

/** What becomes of the old loom: by decision with its mass, and end by end, counted down to nothing. */
const props = defineProps<{ build: BuildView; make: Schemas['MakeView'] }>()
const id = useBuildId()
const { edit } = useEdits(id)

const old = computed(() => props.make.workshop.old_loom)

function settle(end: Schemas['OldEnd'], settled: boolean): void {
  const row = byId(props.build.found_circuits).get(end.circuit)
  if (!row) return
  const stretches = row.stretches.map((one, at) => (at === end.stretch ? { ...one, settled } : one))
  void edit(settled ? `End of ${row.name} done` : `End of ${row.name} not done`, [change('found_circuits', row.id, { stretches })])
}
</script>

<template>
  <p v-if="!old" class="sheet empty">
    No old loom is recorded. Where there is one, write down what you find:
    <RouterLink :to="{ name: 'old-loom', params: { id } }">Take stock, Old loom</RouterLink>.
  </p>
  <div v-else class="list-scrolls">
    <p class="list-bar">
      <b role="status">{{ old.left ? `${old.left} of ${old.ends} ends are left to do` : `All ${old.ends} ends are done` }}</b>
      <span>
        taken out {{ fixed(old.out_kg, 2) }} kg, put in {{ fixed(old.in_kg, 2) }} kg<template v-if="old.unweighed.length">;
          not weighed, for want of a gauge or a length: {{ old.unweighed.join(', ') }}</template>
      </span>
    </p>
    <p class="caution">▲ Battery negative off. Label both ends before anything is cut; what is cut back is insulated and tied away the same hour.</p>
    <div class="sheet">
      <table>
        <caption class="visually-hidden">What becomes of each circuit</caption>
        <thead>
          <tr>
            <th scope="col">Decision</th>
            <th scope="col">Circuits</th>
            <th scope="col">What is done</th>
            <th scope="col" class="figure">kg</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="fate in old.fates" :key="fate.decision">
            <th scope="row">{{ fate.decision }}</th>
            <td>{{ fate.circuits.join(', ') }}</td>
            <td>{{ fate.says }}</td>
            <td class="figure">{{ fixed(fate.mass_kg, 2) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div class="sheet">
      <table>
        <caption class="visually-hidden">Ends that are left, by where they are</caption>
        <thead>
          <tr>
            <th scope="col">Ends at</th>
            <th scope="col">Wire</th>
            <th scope="col">Circuit</th>
            <th scope="col">What is done</th>
            <th scope="col">Done</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="plug in old.plugs" :key="plug.name">
            <tr v-for="(end, n) in plug.ends" :key="`${end.circuit} ${end.stretch}`" :class="{ quiet: end.settled }">
              <th scope="row">
                <template v-if="n === 0">
                  {{ plug.name }}<small>{{ plug.left ? `${plug.left} left` : 'nothing left' }}</small>
                </template>
              </th>
              <td class="kind"><i class="swatch" :style="{ background: colourCss(end.colour) }" aria-hidden="true"></i>{{ end.colour }} {{ end.size }}</td>
              <td>{{ end.name }}</td>
              <td>{{ end.fate }}</td>
              <td>
                <input type="checkbox" :checked="end.settled" :disabled="!end.decided" :aria-label="`${end.name} at ${plug.name} done`" @change="settle(end, ($event.target as HTMLInputElement).checked)" />
              </td>
            </tr>
          </template>
        </tbody>
      </table>
      <p v-if="!old.plugs.length" class="empty">No stretch of wire is recorded yet: add them in Take stock, Old loom.</p>
    </div>
  </div>
</template>

<style scoped>
.list-bar {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
}

.caution {
  margin: 4px 0;
  color: var(--ochre);
}

.sheet {
  margin-bottom: 8px;
}

th small {
  display: block;
  color: var(--quiet);
  font-weight: 400;
}

.kind {
  white-space: nowrap;
}
</style>
