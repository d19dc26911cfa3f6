<script setup lang="ts">
import { computed } from 'vue'

import { useBenchState, useBuild, useBuildId, useReadings, useResults } from '@/api/queries'
import CarPlan from '@/components/CarPlan.vue'
import DriverControls from '@/components/DriverControls.vue'
import VoltMeter from '@/components/VoltMeter.vue'
import { fixed } from '@/format'
import { useBench } from '@/stores/bench'

const id = useBuildId()
const bench = useBench()
const { data: build } = useBuild(id)
const { data: readings, error } = useReadings(id)
const { data: results } = useResults(id)
const state = useBenchState(id)

const wired = computed(
  () =>
    new Set(
      build.value?.wires.flatMap((wire) => [wire.from_terminal, wire.to_terminal])
        .map((terminal) => terminal.split('.')[0]),
    ),
)
const loads = computed(
  () =>
    build.value?.parts
      .filter((part) => part.kind === 'load' && wired.value.has(part.id))
      .map((part) => ({ part, reading: readings.value?.loads[part.id] })) ?? [],
)
const relaysIn = computed(
  () =>
    build.value?.parts.filter((part) => readings.value?.relays[part.id]?.pulled_in)
      .map((part) => part.name) ?? [],
)

function probe(load: string): void {
  bench.change(id.value, { red: `${load}.+`, black: `${load}.-` })
}
</script>

<template>
  <div v-if="build" class="bench">
    <aside>
      <DriverControls :build="build" />
    </aside>
    <div class="plan">
      <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
      <CarPlan
        :build="build"
        :readings="error ? undefined : readings"
        :sizes="results"
        :red="state.red"
        :black="state.black"
        @probe="probe"
      />
    </div>
    <div class="readings">
      <VoltMeter :build="build" :readings="error ? undefined : readings" />
      <div class="sheet list">
        <table>
          <caption class="visually-hidden">
            What every load does now
          </caption>
          <thead>
            <tr>
              <th scope="col">Load</th>
              <th scope="col" class="figure">V</th>
              <th scope="col" class="figure">A</th>
              <th scope="col">Does, of rated</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="row in loads"
              :key="row.part.id"
              :class="{ on: row.reading?.is_on && !error }"
            >
              <td>
                <button :title="`Voltmeter across ${row.part.name}`" @click="probe(row.part.id)">
                  {{ row.part.name }}
                </button>
              </td>
              <td class="figure">{{ error ? '–' : fixed(row.reading?.volts, 2) }}</td>
              <td class="figure">{{ error ? '–' : fixed(row.reading?.amps, 2) }}</td>
              <td>
                <template v-if="error">–</template>
                <template v-else-if="row.reading?.is_on">
                  {{ fixed(row.reading?.output_percent, 0) }} % {{ row.part.output_word }}
                </template>
                <span v-else class="quiet">off</span>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="loads.length === 0" class="empty">No wired loads yet: wire them in Take stock.</p>
      </div>
      <p class="relays quiet" role="status">
        {{ relaysIn.length ? `Pulled in: ${relaysIn.join(', ')}.` : 'No relay has pulled in.' }}
        Cold garage, engine off; steady readings.
      </p>
    </div>
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  height: 100%;
  grid-template-columns: 270px minmax(240px, 1fr) 372px;
}

aside,
.readings {
  overflow-y: auto;
}

aside {
  border-right: 1px solid var(--rule);
}

.plan {
  min-height: 0;
  padding: 8px;
}

.readings {
  padding: 10px 12px;
  border-left: 1px solid var(--rule);
}

.list {
  margin-top: 10px;
}

.list td {
  padding: 2px 8px;
}

.list button {
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  cursor: pointer;
  font: inherit;
  text-align: left;
}

tr.on td {
  color: var(--amber-ink);
  font-weight: 600;
}

.relays {
  margin-top: 8px;
  font-size: 13px;
}

@media (max-width: 1000px) {
  .bench {
    height: auto;
    grid-template-columns: minmax(300px, 1fr) minmax(300px, 1fr);
  }

  .plan {
    grid-row: 2;
  }

  .readings {
    grid-row: 1 / span 2;
  }
}
</style>
