<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import {
  useBuild,
  useBuildId,
  useCandidates,
  useDesignFallLines,
  useLiveFallLines,
  useResults,
  useSchematic,
  useTimeCurrent,
  useTruth,
} from '@/api/queries'
import { byId } from '@/byId'
import { usePartsCatalogue } from '@/colours'
import CircuitParts from '@/components/CircuitParts.vue'
import DrawingSheet from '@/components/DrawingSheet.vue'
import FallLine from '@/components/FallLine.vue'
import FindingNote from '@/components/FindingNote.vue'
import TimeCurrent from '@/components/TimeCurrent.vue'
import PathTable from '@/components/PathTable.vue'
import TruthTable from '@/components/TruthTable.vue'
import VerdictMark from '@/components/VerdictMark.vue'
import WhyThisSize from '@/components/WhyThisSize.vue'
import WireHeat from '@/components/WireHeat.vue'
import { fixed } from '@/format'
import { useLive } from '@/stores/live'

const id = useBuildId()
const route = useRoute()
const router = useRouter()
const { data: build } = useBuild(id)
const { data: results, error } = useResults(id)

const ledger = computed(() => {
  const order = ['stop', 'look', 'note', 'fine']
  return (build.value?.circuits ?? [])
    .map((circuit) => ({ circuit, line: results.value?.circuits[circuit.id] }))
    .filter((row) => row.line)
    .sort((a, b) => order.indexOf(a.line!.verdict) - order.indexOf(b.line!.verdict))
})
const chosenId = computed(() => {
  const named = String(route.params.circuit ?? '')
  const known = ledger.value.some((row) => row.circuit.id === named)
  return known ? named : ledger.value[0]?.circuit.id
})
const chosen = computed(() => ledger.value.find((row) => row.circuit.id === chosenId.value))
const road = ref('')
const { data: design } = useDesignFallLines(id, chosenId, road)
const bench = useLive()
const isLive = computed(() => bench.isLive)
const { data: liveLines } = useLiveFallLines(id, chosenId, isLive)
const liveWires = computed(() => (bench.isLive ? bench.wires : undefined))

const { data: drawing, isFetching: drawingComes, error: drawingError } = useSchematic(id, chosenId)
const vary = ref<string[]>()
const { data: truth, error: truthError } = useTruth(id, chosenId, vary)
usePartsCatalogue()

/** What lies below the drawing: one thing at a time, so that the page stays short. */
const TABS = { fall: 'Fall line', time: 'Time and heat', truth: 'Truth table', parts: 'Wires and parts' }
const tab = ref<keyof typeof TABS>('fall')
const loadNames = computed(() => Object.fromEntries((build.value?.parts ?? []).map((part) => [part.id, part.name])))
const branches = computed(() => (design.value ?? []).filter((row) => row.load !== line.value?.load))

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
      vary.value = undefined
      road.value = ''
    }
  },
  { immediate: true },
)

const line = computed(
  () => design.value?.find((row) => row.load === loadId.value) ?? design.value?.[0],
)
const liveLine = computed(() =>
  isLive.value ? liveLines.value?.find((row) => row.load === line.value?.load && row.load_v > 0.5) : undefined,
)
const shownLine = computed(() => liveLine.value ?? line.value)
const loadName = computed(
  () => byId(build.value?.parts).get(line.value?.load)?.name ?? '',
)
const findings = computed(
  () => results.value?.findings.filter((row) => row.circuit === chosenId.value || row.parts.some(isOwnLoad)) ?? [],
)
const ownLoads = computed(
  () => new Set(build.value?.parts.filter((part) => part.kind === 'load' && part.circuit === chosenId.value).map((part) => part.id)),
)
/** A finding on what several circuits share is shown with each of them. */
function isOwnLoad(part: string): boolean {
  return ownLoads.value.has(part)
}
const explained = computed(() => {
  const feed = [...(line.value?.steps ?? [])].filter((step) => step.side === 'feed')
  const asked = why.value ?? feed.filter((step) => step.kind === 'wire').at(-1)
  if (!asked || !results.value) return null
  const wire = asked.kind === 'wire' ? results.value.wires[asked.owner] : undefined
  const fuse = asked.kind === 'fuse' ? results.value.fuses[asked.owner] : undefined
  if (wire) {
    const label = byId(build.value?.wires).get(wire.wire)?.label ?? ''
    return { ...wire, owner: wire.wire, name: `wire ${label}`, fitted: wire.size }
  }
  if (fuse) {
    const name = byId(build.value?.parts).get(fuse.fuse)?.name ?? ''
    return { ...fuse, owner: fuse.fuse, name, fitted: `${fuse.rating_a} A` }
  }
  return null
})

const fuseId = computed(() => chosen.value?.line?.fuse ?? undefined)
const { data: curves, error: curvesError } = useTimeCurrent(id, fuseId)

const wiresOfCircuit = computed(
  () =>
    build.value?.wires
      .filter((row) => row.circuit === chosen.value?.circuit.id)
      .map((row) => ({ id: row.id, label: row.label })) ?? [],
)

const { data: candidates } = useCandidates(
  id,
  computed(() => explained.value?.owner),
)

/** The part or wire under the pointer, the same in the drawing, the fall line and the tables. */
const lit = ref<string | null>(null)
watch(stepIndex, (index) => {
  lit.value = index === null ? null : (shownLine.value?.steps[index]?.owner ?? null)
})
watch(lit, (owner) => {
  const index = shownLine.value?.steps.findIndex((step) => step.owner === owner) ?? -1
  if (shownLine.value?.steps[stepIndex.value ?? -1]?.owner !== owner) stepIndex.value = index < 0 ? null : index
})
watch(
  () => route.query.light,
  (owner) => {
    if (typeof owner !== 'string') return
    lit.value = owner
    tab.value = 'parts'
  },
  { immediate: true },
)

function open(owner: string): void {
  lit.value = owner
  if (tab.value === 'truth') tab.value = 'parts'
}

function choose(circuit: string): void {
  void router.push({ name: 'circuits', params: { id: id.value, circuit } })
}

/** A limit in V; judged by ampacity alone there is none. */
function allowed(percent: number | null, limitV: number | null): string {
  return percent !== null && percent >= 99 ? '–' : fixed(limitV, 2)
}

function fuseText(fuse: string | null | undefined): string {
  if (!fuse) return 'none'
  const name = byId(build.value?.parts).get(fuse)?.name ?? ''
  return `${name} · ${results.value?.fuses[fuse]?.rating_a ?? '–'} A`
}
</script>

<template>
  <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
  <p v-else-if="!results" class="empty">Sizing every fuse and wire…</p>
  <p v-else-if="ledger.length === 0" class="empty">
    No circuits yet. <RouterLink :to="{ name: 'functions', params: { id } }">Add a function</RouterLink> or
    <RouterLink :to="{ name: 'stock', params: { id } }">a load</RouterLink>, and its circuit, fuse and wires appear here.
  </p>
  <div v-else class="circuits">
    <div class="ledger">
      <RouterLink class="add" :to="{ name: 'functions', params: { id } }">+ Add a function</RouterLink>
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
            <th scope="col" class="figure">Lost, V</th>
            <th scope="col" class="figure limit">of at most</th>
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
            <td class="figure">{{ row.line!.worst_load ? fixed(row.line!.current_a, 1) : '' }}</td>
            <td class="figure">
              {{ row.line!.fuse ? (results.fuses[row.line!.fuse]?.rating_a ?? '–') : '' }}
              <small v-if="row.line!.fuses > 1" :title="`and ${row.line!.fuses - 1} more`">+{{ row.line!.fuses - 1 }}</small>
            </td>
            <td class="figure">{{ row.line!.size }}</td>
            <td class="figure">{{ row.line!.worst_load ? fixed(row.line!.drop_v, 2) : '' }}</td>
            <td class="figure limit">{{ row.line!.worst_load ? allowed(row.line!.limit_percent, row.line!.limit_v) : '' }}</td>
            <td><VerdictMark :verdict="row.line!.verdict" /></td>
          </tr>
        </tbody>
      </table>
    </div>

    <div v-if="chosen" class="chosen-circuit">
      <div class="head">
        <h1>{{ chosen.circuit.name }}</h1>
        <span class="quiet">
          {{ chosen.circuit.criticality }}<template v-if="chosen.line!.limit_v !== null">
            · may lose {{ allowed(chosen.line!.limit_percent, chosen.line!.limit_v) }} V</template> · behind
          {{ fuseText(chosen.line!.fuse) }}{{ chosen.line!.fuses > 1 ? ` and ${chosen.line!.fuses - 1} more` : '' }}
        </span>
        <RouterLink
          v-if="chosen.circuit.written"
          class="again"
          :to="{ name: 'functions', params: { id, recipe: chosen.circuit.written.recipe }, query: { circuit: chosenId } }"
        >
          Write it again…
        </RouterLink>
        <label v-if="(design?.length ?? 0) > 1">
          to
          <select v-model="loadId" aria-label="Load of this circuit" @change="stepIndex = null">
            <option v-for="row in design" :key="row.load" :value="row.load">
              {{ byId(build?.parts).get(row.load)?.name }}
            </option>
          </select>
        </label>
      </div>
      <DrawingSheet
        v-model:chosen="lit"
        :drawing="drawing"
        :title="chosen.circuit.name"
        :file="`/api/builds/${id}/circuits/${chosenId}/schematic`"
        :live="liveWires"
        :troubled="findings.flatMap((row) => row.parts)"
        :refused="drawingError?.message"
        :comes="drawingComes"
        @open="open"
      />
      <FindingNote v-for="row in findings" :key="row.title" :finding="row" />
      <div class="tabs" role="tablist" aria-label="More of this circuit">
        <button
          v-for="(title, name) in TABS"
          :id="`tab-${name}`"
          :key="name"
          role="tab"
          type="button"
          :aria-selected="tab === name"
          @click="tab = name"
        >
          {{ title }}
        </button>
      </div>

      <template v-if="tab === 'fall'">
        <div class="sheet">
          <p v-if="line && !liveLine" class="state">
            <label v-if="line.roads.length > 1">
              drawn in
              <select v-model="road" aria-label="Road state">
                <option value="">where {{ loadName }} loses most</option>
                <option v-for="name in line.roads" :key="name" :value="name">{{ name }}</option>
              </select>
            </label>
            <span v-else>drawn in <b>{{ line.road }}</b></span>
            <span class="quiet">
              <template v-if="!road && line.roads.length > 1">{{ line.road }} · </template>{{ line.when }}
            </span>
          </p>
          <FallLine
            v-if="line"
            v-model:chosen="stepIndex"
            :design="line"
            :live="liveLine"
            :branches="branches"
            :load-name="loadName"
            :findings="findings"
          />
          <p v-else class="empty">
            {{
              chosen.line!.worst_load
                ? 'No key and switch position feeds this load, so there is no fall line yet.'
                : 'This circuit has no load of its own: it feeds or controls others.'
            }}
          </p>
        </div>
        <div v-if="explained" class="sheet">
          <WhyThisSize
            :name="explained.name"
            :fitted="explained.fitted"
            :pinned="explained.pinned"
            :current-a="explained.current_a"
            :lasting-a="explained.lasting_a"
            :when="explained.when"
            :candidates="candidates ?? []"
          />
        </div>
        <div v-if="shownLine" class="sheet">
          <PathTable v-model:chosen="stepIndex" :line="shownLine" @why="(step) => (why = step)" />
        </div>
      </template>
      <div v-else-if="tab === 'time'" class="sheet">
        <p v-if="curvesError" class="refusal">{{ curvesError.message }}</p>
        <TimeCurrent v-else-if="curves" :curves="curves" />
        <p v-else class="empty">
          {{ fuseId ? 'Drawing how long the fuse takes…' : 'No fuse stands before this circuit: a channel or nothing protects it.' }}
        </p>
        <WireHeat v-if="wiresOfCircuit.length" :wires="wiresOfCircuit" :first="wiresOfCircuit.find((row) => row.id === curves?.worst_wire)?.id" />
      </div>
      <div v-else-if="tab === 'truth'" class="sheet">
        <p v-if="truthError" class="refusal">{{ truthError.message }}</p>
        <TruthTable v-else-if="truth" :table="truth" :names="loadNames" @vary="(parts) => (vary = parts)" />
        <p v-else class="empty">Solving every position…</p>
      </div>
      <div v-else class="sheet">
        <CircuitParts
          v-if="build"
          :build="build"
          :circuit="chosen.circuit"
          :results="results"
          :lit="lit"
          @light="(owner) => (lit = owner)"
          @went="choose"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
td small {
  color: var(--quiet);
}

.circuits {
  display: flex;
  height: 100%;
}

.ledger {
  width: 440px;
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

.add {
  display: block;
  padding: 7px 10px;
  border-bottom: 1px solid var(--rule);
  font-family: var(--heading);
  font-size: 16px;
  font-weight: 600;
  text-decoration: none;
}

.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
  align-items: baseline;
  border-bottom: 1px solid var(--rule);
}

.tabs button {
  padding: 3px 12px;
  white-space: nowrap;
  border: 1px solid transparent;
  border-bottom: 0;
  border-radius: 3px 3px 0 0;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font-family: var(--heading);
  font-size: 16px;
  font-weight: 600;
}

.tabs button[aria-selected='true'] {
  border-color: var(--rule);
  background: var(--sheet);
  color: var(--ink);
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

.state {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
  margin: 0;
  padding: 6px 12px 0;
}

.state select,
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

@media (max-width: 480px) {
  .limit {
    display: none;
  }

  .chosen-circuit {
    padding: 10px 8px 16px;
  }
}
</style>
