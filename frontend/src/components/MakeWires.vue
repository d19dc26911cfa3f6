<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { colourCss } from '@/colours'
import { fixed } from '@/format'

/** The wires in the order in which they are made, ticked off step by step. */
const props = defineProps<{ make: Schemas['MakeView'] }>()
const emit = defineEmits<{ tick: [wires: string[], step: string, done: boolean] }>()

type Line = Schemas['WireLine']
const GROUPINGS: Record<string, (line: Line) => string> = {
  circuit: (line) => line.circuit_name || 'no circuit',
  stage: (line) => `Stage ${line.stage}, ${line.tape} tape`,
  colour: (line) => line.colour,
  size: (line) => line.size,
  run: (line) => line.legs[0]?.says ?? 'within one place',
}
const grouping = ref('circuit')
const open = ref<string>()

const groups = computed(() => {
  const found = new Map<string, Line[]>()
  for (const line of props.make.workshop.wires) {
    const name = GROUPINGS[grouping.value]!(line)
    found.set(name, [...(found.get(name) ?? []), line])
  }
  return [...found].map(([name, lines]) => ({ name, lines }))
})
const isDone = (wire: string, step: string) => props.make.done[wire]?.includes(step) ?? false
const all = (lines: Line[], step: string) => lines.every((line) => isDone(line.id, step))
const ids = (lines: Line[]) => lines.map((line) => line.id)
</script>

<template>
  <p class="no-print group">
    <label>
      Grouped by
      <select v-model="grouping" class="field">
        <option v-for="(_, name) in GROUPINGS" :key="name" :value="name">{{ name }}</option>
      </select>
    </label>
    <span class="quiet">A tick takes the steps before it along. Press a label for its length and its ends.</span>
  </p>
  <div class="sheet scrolls">
    <table>
      <caption class="visually-hidden">Wires to make</caption>
      <thead>
        <tr>
          <th scope="col">Label</th>
          <th scope="col">Wire</th>
          <th scope="col" class="figure">Cut m</th>
          <th scope="col">From</th>
          <th scope="col">To</th>
          <th v-for="step in make.steps" :key="step" scope="col" class="step">{{ step }}</th>
        </tr>
      </thead>
      <tbody v-for="group in groups" :key="group.name">
        <tr class="head">
          <th scope="rowgroup" colspan="5">{{ group.name }} <span class="quiet">{{ group.lines.length }}</span></th>
          <td v-for="step in make.steps" :key="step" class="step">
            <input
              type="checkbox"
              :checked="all(group.lines, step)"
              :aria-label="`All of ${group.name} ${step}`"
              @change="emit('tick', ids(group.lines), step, !all(group.lines, step))"
            />
          </td>
        </tr>
        <template v-for="line in group.lines" :key="line.id">
          <tr :class="{ done: isDone(line.id, 'laid') }">
            <th scope="row">
              <button class="plain" :aria-expanded="open === line.id" @click="open = open === line.id ? undefined : line.id">{{ line.label }}</button>
            </th>
            <td><i class="swatch" :style="{ background: colourCss(line.colour) }" aria-hidden="true"></i>{{ line.size }} {{ line.colour }}</td>
            <td class="figure">{{ fixed(line.cut_m, 2) }}</td>
            <td>{{ line.start.says }}</td>
            <td>{{ line.end.says }}</td>
            <td v-for="step in make.steps" :key="step" class="step">
              <input
                type="checkbox"
                :checked="isDone(line.id, step)"
                :aria-label="`${line.label} ${step}`"
                @change="emit('tick', [line.id], step, !isDone(line.id, step))"
              />
            </td>
          </tr>
          <tr v-if="open === line.id" class="detail">
            <td colspan="9">
              <dl>
                <dt>Length</dt>
                <dd>
                  <template v-if="line.given_m !== null">{{ fixed(line.given_m, 2) }} m as given</template>
                  <template v-for="(leg, n) in line.legs" :key="leg.run">{{ n ? ' + ' : '' }}{{ leg.says }} {{ fixed(leg.length_m, 2) }}</template>
                  <template v-if="line.given_m === null && !line.legs.length">within one place</template>
                  + {{ fixed(line.ends_m, 2) }} for the ends = {{ fixed(line.length_m, 2) }} m, cut at {{ fixed(line.cut_m, 2) }} m
                </dd>
                <template v-for="(end, which) in { From: line.start, To: line.end }" :key="which">
                  <dt>{{ which }}</dt>
                  <dd>
                    {{ end.says }}, {{ end.place }}: {{ end.ends_in }}, strip {{ end.strip_mm }} mm{{ end.sealed ? ', seal on first' : '' }}; {{ end.joint }}
                  </dd>
                </template>
                <dt>Insulation</dt>
                <dd>{{ line.insulation }}</dd>
                <dt>Labels</dt>
                <dd>{{ line.labels }}: one at each end{{ line.labels > 2 ? `, ${line.labels - 2} between` : '' }}; stage {{ line.stage }}, {{ line.tape }} tape</dd>
              </dl>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <p v-if="!make.workshop.wires.length" class="empty">No wires yet: draft the wiring from Take stock, or add a function in Circuits.</p>
  </div>
</template>

<style scoped>
.group {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
  margin: 0;
}

.scrolls {
  min-height: 0;
  flex: 1;
  overflow: auto;
}

thead th {
  position: sticky;
  z-index: 1;
  top: 0;
  background: var(--sheet);
}

tbody th {
  color: var(--ink);
  font-family: var(--text);
  font-weight: 400;
}

.head th {
  padding-top: 10px;
  font-family: var(--heading);
  font-weight: 600;
}

.step {
  width: 62px;
  text-align: center;
}

.done td,
.done th {
  color: var(--quiet);
}

.swatch {
  display: inline-block;
  width: 18px;
  height: 8px;
  margin-right: 6px;
  border: 1px solid var(--rule);
}

.detail td {
  background: var(--paper);
}

dl {
  display: grid;
  gap: 2px 12px;
  grid-template-columns: 80px 1fr;
  margin: 2px 0;
}

dt {
  color: var(--quiet);
}

dd {
  margin: 0;
}

@media print {
  .scrolls {
    overflow: visible;
  }
}
</style>
