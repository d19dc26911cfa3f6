<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { fixed } from '@/format'

/** What lives in which position, as the solver found it. Positions with the same outcome share a row. */
defineProps<{ table: Schemas['TruthTableView']; names: Record<string, string> }>()
const emit = defineEmits<{ vary: [parts: string[]] }>()

const MARKS: Record<string, string> = { on: '●', off: '·', dim: '◐', flashing: '✱', reverse: '↺' }

function position(lever: Schemas['LeverView'], at: string[]): string {
  return at.length === lever.positions.length ? 'any' : at.join(', ')
}

function swap(table: Schemas['TruthTableView'], held: string): string[] {
  return [held, ...table.levers.map((lever) => lever.part)].slice(0, 3)
}
</script>

<template>
  <div class="truth">
    <p class="quiet says">
      Every position solved by the network; volts are those at the load, while lit if it flashes.
    </p>
    <table aria-label="Truth table">
      <thead>
        <tr>
          <th v-for="lever in table.levers" :key="lever.part" scope="col">{{ lever.name }}</th>
          <th v-for="load in table.loads" :key="load" scope="col" class="outcome">{{ names[load] ?? load }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, index) in table.rows" :key="index">
          <td v-for="(at, lever) in row.positions" :key="lever" :class="{ quiet: at.length === table.levers[lever]!.positions.length }">
            {{ position(table.levers[lever]!, at) }}
          </td>
          <td v-for="(outcome, load) in row.outcomes" :key="load" class="outcome" :class="outcome.word">
            <span aria-hidden="true">{{ MARKS[outcome.word] }}</span>
            {{ outcome.word }}
            <small v-if="outcome.word !== 'off'">{{ fixed(Math.abs(outcome.volts), 1) }} V</small>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="table.held.length" class="quiet held">
      At rest here, for there are too many combinations:
      <button v-for="lever in table.held" :key="lever.part" type="button" @click="emit('vary', swap(table, lever.part))">
        {{ lever.name }}
      </button>
      Press one to move it instead.
    </p>
    <p v-if="!table.levers.length" class="quiet held">No switch and no key position decides about this circuit.</p>
  </div>
</template>

<style scoped>
.truth {
  overflow-x: auto;
}

.says {
  padding: 6px 10px 0;
  margin: 0;
}

th {
  white-space: normal;
  line-height: 1.1;
  vertical-align: bottom;
}

td {
  font-size: 13px;
  white-space: nowrap;
}

.outcome {
  padding: 3px 6px;
}

td.off {
  color: var(--quiet);
}

td.on,
td.flashing,
td.reverse {
  background: color-mix(in srgb, var(--amber) 16%, transparent);
  font-weight: 600;
}

td.dim {
  background: color-mix(in srgb, var(--ochre) 14%, transparent);
  color: var(--ochre);
  font-weight: 600;
}

small {
  color: var(--quiet);
  font-weight: 400;
}

.held {
  padding: 6px 10px;
}

.held button {
  padding: 0;
  border: 0;
  margin-right: 8px;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
  text-decoration: underline;
}
</style>
