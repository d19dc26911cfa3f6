<script setup lang="ts">
import type { FallLineView } from '@/api/client'
import { useBuild, useBuildId } from '@/api/queries'
import { fixed } from '@/format'
import { terminalName } from '@/names'

/** The way from battery to load and back as a table; a row leads to why its size is what it is. */
defineProps<{ line: FallLineView }>()
const chosen = defineModel<number | null>('chosen', { required: true })
const emit = defineEmits<{ why: [step: { kind: string; owner: string }] }>()

const { data: build } = useBuild(useBuildId())
const SIDES = { feed: 'feed', load: 'load', return: 'return' }
</script>

<template>
  <table>
    <caption class="visually-hidden">
      The way from battery to load and back
    </caption>
    <thead>
      <tr>
        <th scope="col">Side</th>
        <th scope="col">Element</th>
        <th scope="col">From</th>
        <th scope="col">To</th>
        <th scope="col" class="figure">Length, m</th>
        <th scope="col" class="figure">Amps</th>
        <th scope="col" class="figure">Loss, mV</th>
        <th scope="col"><span class="visually-hidden">Why</span></th>
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="(step, index) in line.steps"
        :key="index"
        :class="{ chosen: chosen === index, load: step.side === 'load' }"
        @pointerenter="chosen = index"
        @pointerleave="chosen = null"
      >
        <td class="quiet">{{ SIDES[step.side] }}</td>
        <td>
          <b>{{ step.name }}</b> {{ step.detail }}
        </td>
        <td>{{ terminalName(build, step.from_terminal) }}</td>
        <td>{{ terminalName(build, step.to_terminal) }}</td>
        <td class="figure">{{ step.length_m ? fixed(step.length_m, 2) : '' }}</td>
        <td class="figure">{{ fixed(step.amps, 2) }}</td>
        <td class="figure">{{ fixed(step.loss_v * 1000, 0) }}</td>
        <td>
          <button
            v-if="step.kind === 'wire' || step.kind === 'fuse'"
            :aria-label="`Why this size for ${step.name}`"
            @focus="chosen = index"
            @click="emit('why', step)"
          >
            why?
          </button>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
td {
  font-size: 13px;
}

tr.chosen {
  background: color-mix(in srgb, var(--amber) 18%, transparent);
}

tr.load td {
  background: var(--paper);
}

button {
  padding: 0;
  border: 0;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
  text-decoration: underline;
}
</style>
