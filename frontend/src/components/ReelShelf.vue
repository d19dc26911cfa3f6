<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { fixed } from '@/format'

/** The sizes to choose from, what the car needs of each, and what doing without one would cost. */
const props = defineProps<{ build: BuildView; rules: Schemas['RulesView'] }>()
const { edit } = useEdits(useBuildId())

const shown = computed(() => props.rules.reels.filter((row) => row.on_shelf || row.usual || row.wires))
const others = computed(() => props.rules.reels.filter((row) => !shown.value.includes(row)))
const used = computed(() => props.rules.reels.filter((row) => row.wires).length)

function shelf(row: Schemas['ReelView']): void {
  const on = props.rules.reels.filter((reel) => (reel.size === row.size ? !reel.on_shelf : reel.on_shelf)).map((reel) => reel.size)
  const usual = props.rules.reels.filter((reel) => reel.usual).map((reel) => reel.size)
  const same = on.length === usual.length && on.every((size) => usual.includes(size))
  void edit(`${row.on_shelf ? 'Take' : 'Put'} ${row.size} ${row.on_shelf ? 'off' : 'on'} the shelf`, [
    { op: 'change', collection: 'build', id: 'build', fields: { policy: { shelf: same ? [] : on } } },
  ])
}

function add(event: Event): void {
  const select = event.target as HTMLSelectElement
  const row = others.value.find((reel) => reel.size === select.value)
  if (row) shelf(row)
  select.value = ''
}
</script>

<template>
  <section class="sheet" aria-label="Reels">
    <h2>Reels</h2>
    <p class="quiet">
      The car takes {{ used }} {{ used === 1 ? 'size' : 'sizes' }} and {{ fixed(rules.copper_kg, 1) }} kg of copper. Only what is on the shelf is chosen.
    </p>
    <table>
      <thead>
        <tr>
          <th scope="col">On the shelf</th>
          <th scope="col">Size</th>
          <th scope="col" class="figure">Wires</th>
          <th scope="col" class="figure">Metres</th>
          <th scope="col" class="figure">Copper, kg</th>
          <th scope="col">Doing without it</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in shown" :key="row.size">
          <td>
            <input type="checkbox" :checked="row.on_shelf" :aria-label="`${row.size} on the shelf`" @change="shelf(row)" />
          </td>
          <td class="size">{{ row.size }}</td>
          <td class="figure">{{ row.wires || '' }}</td>
          <td class="figure">{{ row.wires ? fixed(row.length_m, 1) : '' }}</td>
          <td class="figure">{{ row.wires ? fixed(row.copper_kg, 2) : '' }}</td>
          <td class="quiet">
            <template v-if="!row.wires">not used</template>
            <template v-else-if="row.without_kg !== null">{{ fixed(row.without_kg, 2) }} kg more, in {{ row.instead }}</template>
            <template v-else>the next size does not fit every terminal</template>
          </td>
        </tr>
      </tbody>
    </table>
    <label v-if="others.length" class="more">
      put another size on the shelf
      <select aria-label="Put another size on the shelf" @change="add">
        <option value=""></option>
        <option v-for="row in others" :key="row.size">{{ row.size }}</option>
      </select>
    </label>
  </section>
</template>

<style scoped>
section {
  padding: 10px 14px;
}

.size {
  white-space: nowrap;
}

.more {
  display: block;
  margin-top: 8px;
}

select {
  width: 110px;
  height: 26px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
}
</style>
