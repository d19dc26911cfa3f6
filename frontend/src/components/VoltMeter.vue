<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useBenchState, useBuildId } from '@/api/queries'
import { fixed } from '@/format'
import { useBench } from '@/stores/bench'

/** A voltmeter of 10 MΩ between any two terminals of the car. */
const props = defineProps<{ build: BuildView; readings: Schemas['BenchAnswer'] | undefined }>()

const id = useBuildId()
const bench = useBench()
const state = useBenchState(id)
const terminals = computed(
  () =>
    new Map(
      props.build.parts.flatMap((part) =>
        part.terminals.map((terminal) => [`${part.id}.${terminal}`, `${part.name} · ${terminal}`]),
      ),
    ),
)
const unknown = ref('')
const connected = computed(() => state.value.red !== null && state.value.black !== null)
const reading = computed(() => props.readings?.meters_v[0])

/** Put a probe on the terminal that is called so, or on the first that holds every word. */
function put(probe: 'red' | 'black', field: HTMLInputElement): void {
  const words = field.value.toLowerCase().split(/\s+/).filter(Boolean)
  const all = [...terminals.value].filter(([, label]) =>
    words.every((word) => label.toLowerCase().includes(word)),
  )
  const found = all.find(([, label]) => label.toLowerCase() === field.value.toLowerCase()) ?? all[0]
  unknown.value = words.length && !found ? field.value : ''
  if (unknown.value) return
  bench.change(id.value, { [probe]: words.length ? found![0] : null })
  field.value = words.length ? found![1] : ''
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
      <input
        :value="terminals.get(state[probe] ?? '') ?? ''"
        list="meter-terminals"
        autocomplete="off"
        :aria-label="`${probe} probe`"
        placeholder="part and terminal"
        @change="put(probe, $event.target as HTMLInputElement)"
        @keydown.enter="put(probe, $event.target as HTMLInputElement)"
      />
    </label>
    <datalist id="meter-terminals">
      <option v-for="[terminal, label] in terminals" :key="terminal" :value="label"></option>
    </datalist>
    <p v-if="unknown" class="refusal" role="alert">No terminal is called “{{ unknown }}”.</p>
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

input {
  min-width: 0;
  height: 30px;
  padding: 0 8px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

input::placeholder {
  color: var(--quiet);
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
