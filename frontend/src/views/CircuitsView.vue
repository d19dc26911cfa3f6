<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { useBuild, useBuildId, useDesignFallLines, useReadings, useResults } from '@/api/queries'
import FallLine from '@/components/FallLine.vue'
import FindingNote from '@/components/FindingNote.vue'
import PathTable from '@/components/PathTable.vue'
import VerdictMark from '@/components/VerdictMark.vue'
import WhyThisSize from '@/components/WhyThisSize.vue'
import { fixed } from '@/format'

const id = useBuildId()
const route = useRoute()
const router = useRouter()
const { data: build } = useBuild(id)
const { data: results, error } = useResults(id)

const ledger = computed(() => {
  const order = ['stop', 'look', 'fine']
  return (build.value?.circuits ?? [])
    .map((circuit) => ({ circuit, line: results.value?.circuits[circuit.id] }))
    .filter((row) => row.line && row.line.worst_load)
    .sort((a, b) => order.indexOf(a.line!.verdict) - order.indexOf(b.line!.verdict))
})
const chosenId = computed(() => {
  const named = String(route.params.circuit ?? '')
  const known = ledger.value.some((row) => row.circuit.id === named)
  return known ? named : ledger.value[0]?.circuit.id
})
const chosen = computed(() => ledger.value.find((row) => row.circuit.id === chosenId.value))
const { data: design } = useDesignFallLines(id, chosenId)
const { data: readings } = useReadings(id, chosenId)

const loadId = ref<string>()
const stepIndex = ref<number | null>(null)
const why = ref<{ kind: string; owner: string } | null>(null)

watch(
  [chosenId, chosen],
  ([now], [before]) => {
    if (now !== before || !loadId.value) {
      loadId.value = chosen.value?.line?.worst_load ?? undefined
      stepIndex.value = null
      why.value = null
    }
  },
  { immediate: true },
)

const line = computed(
  () => design.value?.find((row) => row.load === loadId.value) ?? design.value?.[0],
)
const liveLine = computed(() =>
  readings.value?.fall_lines.find((row) => row.load === line.value?.load && row.load_v > 0.5),
)
const shownLine = computed(() => liveLine.value ?? line.value)
const loadName = computed(
  () => build.value?.parts.find((part) => part.id === line.value?.load)?.name ?? '',
)
const findings = computed(
  () => results.value?.findings.filter((row) => row.circuit === chosenId.value) ?? [],
)
const explained = computed(() => {
  const feed = [...(line.value?.steps ?? [])].filter((step) => step.side === 'feed')
  const asked = why.value ?? feed.filter((step) => step.kind === 'wire').at(-1)
  if (!asked || !results.value) return null
  const wire = asked.kind === 'wire' ? results.value.wires[asked.owner] : undefined
  const fuse = asked.kind === 'fuse' ? results.value.fuses[asked.owner] : undefined
  if (wire) {
    const label = build.value?.wires.find((row) => row.id === wire.wire)?.label ?? ''
    return { ...wire, name: `wire ${label}`, fitted: wire.size }
  }
  if (fuse) {
    const name = build.value?.parts.find((row) => row.id === fuse.fuse)?.name ?? ''
    return { ...fuse, name, fitted: `${fuse.rating_a} A` }
  }
  return null
})

function choose(circuit: string): void {
  void router.push({ name: 'circuits', params: { id: id.value, circuit } })
}

function fuseText(fuse: string | null | undefined): string {
  if (!fuse) return 'none'
  const name = build.value?.parts.find((part) => part.id === fuse)?.name ?? ''
  return `${name} · ${results.value?.fuses[fuse]?.rating_a ?? '–'} A`
}
</script>

<template>
  <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
  <p v-else-if="!results" class="empty">Sizing every fuse and wire…</p>
  <p v-else-if="ledger.length === 0" class="empty">
    No circuits yet. <RouterLink :to="{ name: 'stock', params: { id } }">Add a load</RouterLink> and
    its circuit, fuse and wires appear here.
  </p>
  <div v-else class="circuits">
    <div class="ledger">
      <table>
        <caption class="visually-hidden">
          Circuits, worst first
        </caption>
        <thead>
          <tr>
            <th scope="col">Circuit</th>
            <th scope="col" class="figure">A</th>
            <th scope="col" class="figure">Fuse, A</th>
            <th scope="col" class="figure">Wire</th>
            <th scope="col" class="figure">Drop, %</th>
            <th scope="col">Verdict</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="row in ledger"
            :key="row.circuit.id"
            :class="{ chosen: row.circuit.id === chosenId }"
            @click="choose(row.circuit.id)"
          >
            <td>
              <button :aria-current="row.circuit.id === chosenId" @click.stop="choose(row.circuit.id)">
                {{ row.circuit.name }}
              </button>
            </td>
            <td class="figure">{{ fixed(row.line!.current_a, 1) }}</td>
            <td class="figure">
              {{ row.line!.fuse ? (results.fuses[row.line!.fuse]?.rating_a ?? '–') : 'none' }}
            </td>
            <td class="figure">{{ row.line!.size }}</td>
            <td class="figure">{{ fixed(row.line!.drop_percent, 1) }}</td>
            <td><VerdictMark :verdict="row.line!.verdict" /></td>
          </tr>
        </tbody>
      </table>
    </div>

    <div v-if="chosen" class="chosen-circuit">
      <div class="head">
        <h1>{{ chosen.circuit.name }}</h1>
        <span class="quiet">
          {{ chosen.circuit.criticality }} · at most {{ chosen.line!.limit_percent }} % drop · behind
          {{ fuseText(chosen.line!.fuse) }}
        </span>
        <label v-if="(design?.length ?? 0) > 1">
          to
          <select v-model="loadId" aria-label="Load of this circuit" @change="stepIndex = null">
            <option v-for="row in design" :key="row.load" :value="row.load">
              {{ build?.parts.find((part) => part.id === row.load)?.name }}
            </option>
          </select>
        </label>
      </div>
      <div class="sheet">
        <FallLine
          v-if="line"
          v-model:chosen="stepIndex"
          :design="line"
          :live="liveLine"
          :load-name="loadName"
          :troubled="findings.flatMap((row) => row.parts)"
        />
        <p v-else class="empty">
          No key and switch position feeds this load, so there is no fall line yet.
        </p>
      </div>
      <FindingNote v-for="row in findings" :key="row.title" :finding="row" />
      <div v-if="explained" class="sheet">
        <WhyThisSize
          :name="explained.name"
          :fitted="explained.fitted"
          :pinned="explained.pinned"
          :current-a="explained.current_a"
          :when="explained.when"
          :candidates="explained.candidates"
        />
      </div>
      <div v-if="shownLine" class="sheet">
        <PathTable v-model:chosen="stepIndex" :line="shownLine" @why="(step) => (why = step)" />
      </div>
    </div>
  </div>
</template>

<style scoped>
.circuits {
  display: flex;
  height: 100%;
}

.ledger {
  width: 408px;
  flex: none;
  overflow-y: auto;
  border-right: 1px solid var(--rule);
  background: var(--sheet);
}

.ledger th {
  position: sticky;
  top: 0;
  background: var(--card);
}

.ledger td,
.ledger th {
  padding: 4px 7px;
}

.ledger tbody tr {
  cursor: pointer;
}

.ledger tr.chosen {
  background: var(--copper-wash);
  box-shadow: inset 3px 0 var(--copper);
}

.ledger button {
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  cursor: pointer;
  font: inherit;
  text-align: left;
}

.chosen-circuit {
  display: flex;
  min-width: 0;
  flex: 1;
  flex-direction: column;
  gap: 8px;
  overflow-y: auto;
  padding: 10px 14px 16px;
}

.chosen-circuit > * {
  flex: none;
}

.head {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: baseline;
}

.head select {
  height: 26px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
}

@media (max-width: 1000px) {
  .circuits {
    height: auto;
    flex-direction: column;
  }

  .ledger {
    width: auto;
    max-height: 260px;
    border-right: 0;
    border-bottom: 1px solid var(--rule);
  }
}
</style>
