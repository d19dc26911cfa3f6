<script setup lang="ts">
import { Button as AButton, Select as ASelect } from 'ant-design-vue'
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useBenchState, useBuildId } from '@/api/queries'
import { fixed } from '@/format'
import { useBench } from '@/stores/bench'

/** A voltmeter of 10 MΩ between any two terminals of the car. */
const props = defineProps<{ build: BuildView; readings: Schemas['BenchAnswer'] | undefined }>()

const id = useBuildId()
const bench = useBench()
const state = useBenchState(id)
const terminals = computed(() =>
  props.build.parts.flatMap((part) =>
    part.terminals.map((terminal) => ({
      value: `${part.id}.${terminal}`,
      label: `${part.name} · ${terminal}`,
    })),
  ),
)
const connected = computed(() => state.value.red !== null && state.value.black !== null)
const reading = computed(() => props.readings?.meters_v[0])

function matches(typed: string, option?: { label?: unknown }): boolean {
  const label = String(option?.label ?? '').toLowerCase()
  return typed.toLowerCase().split(/\s+/).every((word) => label.includes(word))
}

function put(probe: 'red' | 'black', terminal: unknown): void {
  bench.change(id.value, { [probe]: terminal ? String(terminal) : null })
}
</script>

<template>
  <section class="meter sheet" aria-label="Voltmeter">
    <h2>Voltmeter</h2>
    <output aria-live="polite" :class="{ quiet: !connected }">
      <template v-if="!connected">– V</template>
      <template v-else-if="reading === null">floats</template>
      <template v-else>{{ fixed(reading, 2) }} V</template>
    </output>
    <label v-for="probe in ['red', 'black'] as const" :key="probe">
      <span class="probe" :class="probe" aria-hidden="true"></span> {{ probe }}
      <ASelect
        :value="state[probe] ?? undefined"
        show-search
        allow-clear
        :aria-label="`${probe} probe`"
        :options="terminals"
        :filter-option="matches"
        placeholder="part and terminal"
        @change="(terminal: unknown) => put(probe, terminal)"
      />
    </label>
    <p class="quiet">
      <template v-if="connected && reading === null">
        Nothing joins these two points: a meter of 10 MΩ shows no steady voltage.
      </template>
      <template v-else-if="!connected">Choose two terminals, or click a load on the plan.</template>
      <AButton v-else size="small" @click="bench.change(id, { red: null, black: null })">
        Take the probes off
      </AButton>
    </p>
  </section>
</template>

<style scoped>
.meter {
  padding: 10px 12px 4px;
}

output {
  display: block;
  margin: 2px 0 6px;
  color: var(--amber-ink);
  font-family: var(--heading);
  font-size: 42px;
  font-weight: 600;
  line-height: 1.05;
}

output.quiet {
  color: var(--quiet);
}

label {
  display: grid;
  align-items: center;
  margin-bottom: 6px;
  gap: 6px;
  grid-template-columns: 12px 40px 1fr;
}

.probe {
  width: 12px;
  height: 12px;
  border-radius: 50%;
}

.probe.red {
  background: var(--brick);
}

.probe.black {
  background: var(--ink);
}
</style>
