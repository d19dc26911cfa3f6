<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute } from 'vue-router'

import { useBudget, useBuild, useBuildId, useMade, useProofStates, useResults } from '@/api/queries'
import { stages } from '@/stages'

const id = useBuildId()
const route = useRoute()
const { data: build } = useBuild(id)
const { data: results, error: sizingError } = useResults(id)
const { data: budget } = useBudget(id)
const { data: made } = useMade(id)
const { data: proofs, error: proofsError } = useProofStates(id)

const FEED_CODES = ['source-wire-long', 'fuse-too-small', 'ground-live', 'ground-loose', 'short-circuit', 'channel-overloaded']

const SIZE_CODES = ['trunk-loses', 'drop-too-high', 'wire-too-thin', 'wire-does-not-fit', 'drop-by-class']

type Mark = 'done' | 'begun' | 'open'

const short = computed(() => budget.value?.scenarios.filter((row) => row.verdict !== 'fine').length ?? 0)

const withLoads = computed(() => {
  const circuits = new Set(
    build.value?.parts.filter((part) => part.kind === 'load').map((part) => part.circuit),
  )
  return build.value?.circuits.filter((circuit) => circuits.has(circuit.id)) ?? []
})

const progress = computed<Record<string, { mark: Mark; says: string }>>(() => {
  const loads = build.value?.parts.filter((part) => part.kind === 'load').length ?? 0
  const findings = (results.value?.findings ?? []).filter((row) => !row.accepted)
  const stop = findings.filter((row) => row.severity === 'stop').length
  const look = findings.filter((row) => row.severity === 'look').length
  const states = proofs.value?.states ?? []
  const proved = states.filter((row) => row.passed && !row.again).length
  const again = states.filter((row) => row.passed && row.again).length
  const steps = proofs.value?.steps ?? null
  const wrong = states.filter((row) => row.step && !row.passed).length
  const circuits = withLoads.value.length
  const fuses = build.value?.parts.filter((part) => part.kind === 'fuse').length ?? 0
  const toLookAt = findings.filter((row) => row.severity !== 'note')
  const onFeeds = toLookAt.filter((row) => FEED_CODES.includes(row.code)).length
  const losing = toLookAt.filter((row) => SIZE_CODES.includes(row.code)).length
  const sizes = new Set(Object.values(results.value?.wires ?? {}).map((row) => row.size)).size
  const toDecide = build.value?.parts.filter((part) => part.state === 'to decide').length ?? 0
  const placed = build.value?.parts.filter((part) => part.kind === 'load' && part.place !== 'unplaced').length ?? 0
  const runs = build.value?.runs ?? []
  const measured = runs.filter((run) => run.measured).length
  return {
    stock: {
      mark: !loads ? 'open' : toDecide ? 'begun' : 'done',
      says: toDecide ? `${loads} loads, ${toDecide} to decide` : `${loads} loads`,
    },
    'lay-out': {
      mark: !runs.length ? 'open' : measured < runs.length || placed < loads ? 'begun' : 'done',
      says: placed < loads ? `${placed} of ${loads} placed` : `${measured} of ${runs.length} runs measured`,
    },
    feeds: {
      mark: !fuses || !results.value ? 'open' : onFeeds ? 'begun' : 'done',
      says: `${fuses} fuses${onFeeds ? `, ${onFeeds} to look at` : ''}`,
    },
    circuits: !results.value
      ? { mark: 'open', says: sizingError.value ? `${circuits}, not sized` : `${circuits}, sizing…` }
      : {
          mark: circuits && !stop && !look ? 'done' : 'begun',
          says: stop || look ? `${circuits}: ${stop} stop, ${look} look` : `${circuits}, all fine`,
        },
    size: {
      mark: !results.value ? 'open' : losing ? 'begun' : 'done',
      says: !results.value ? 'sizing…' : `${sizes} sizes of wire${losing ? `, ${losing} to look at` : ''}`,
    },
    budget: !budget.value
      ? { mark: 'open', says: 'working it out…' }
      : {
          mark: short.value ? 'begun' : 'done',
          says: short.value ? `${short.value} of ${budget.value.scenarios.length} to look at` : `${budget.value.scenarios.length} scenarios, all fine`,
        },
    make: !made.value
      ? { mark: 'open', says: 'listing…' }
      : {
          mark: !made.value.cut ? 'open' : made.value.changed || made.value.cut < made.value.wires ? 'begun' : 'done',
          says: made.value.changed ? `${made.value.changed} cut and changed` : `${made.value.cut} of ${made.value.wires} wires cut`,
        },
    'hand-over': {
      mark: proved && !again && proved === steps ? 'done' : build.value?.revision ? 'begun' : 'open',
      says: `revision ${build.value?.revision ?? 0}, journal and book`,
    },
    'find-a-fault': {
      mark: 'open',
      says: wrong ? `${wrong} ${wrong === 1 ? 'step' : 'steps'} not right` : 'no step has failed',
    },
    'power-up': !proofs.value
      ? { mark: 'open', says: proofsError.value ? 'record not known' : 'reading…' }
      : {
          mark: proved === 0 ? 'open' : again || steps === null || proved < steps ? 'begun' : 'done',
          says: `${proved}${steps === null ? '' : ` of ${steps}`} proved${again ? `, ${again} again` : ''}`,
        },
  }
})

/** Whether the screen shown belongs to this line of the card. */
function here(name: string): boolean {
  return route.path.startsWith(`/builds/${id.value}/${name}`)
}

const card = ref<HTMLElement>()

/** On a narrow screen the card is a strip: the line of the screen shown is brought into it. */
watch(
  () => route.path,
  async () => {
    await nextTick()
    card.value?.querySelector('.here')?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  },
  { immediate: true, flush: 'post' },
)

const rows = computed(() =>
  stages.map((stage) => ({
    ...stage,
    ...progress.value[stage.name]!,
  })),
)
</script>

<template>
  <nav ref="card" class="card" aria-label="Route card">
    <RouterLink
      v-for="(row, index) in rows"
      :key="row.name"
      :to="{ name: row.name, params: { id } }"
      :title="`Alt+${(index + 1) % 10}`"
      :class="[row.mark, { here: here(row.name) }]"
      :aria-current="here(row.name) ? 'page' : undefined"
    >
      <span class="stamp" :class="row.mark" aria-hidden="true"></span>
      <span class="lines">
        <b>{{ row.title }}</b>
        <span>{{ row.says }}</span>
      </span>
    </RouterLink>
  </nav>
</template>

<style scoped>
.card {
  width: 172px;
  flex: none;
  overflow-y: auto;
  padding-top: 8px;
  border-right: 1px solid var(--rule);
  background: var(--card);
}

.card a {
  display: flex;
  gap: 10px;
  padding: 8px 10px 8px 9px;
  border-bottom: 1px dashed var(--rule);
  border-left: 3px solid transparent;
  color: var(--ink);
  text-decoration: none;
}

.card a.here {
  border-left-color: var(--copper);
  background: var(--sheet);
}

.lines {
  display: flex;
  flex-direction: column;
}

.lines b {
  font-family: var(--heading);
  font-size: 16.5px;
  font-weight: 600;
  line-height: 1.15;
}

.lines span {
  color: var(--quiet);
  font-size: 12.5px;
}

.stamp {
  width: 14px;
  height: 14px;
  flex: none;
  margin-top: 2px;
  border: 1.5px solid var(--quiet);
  border-radius: 2px;
}

.stamp.done {
  border-color: var(--moss);
  background: var(--moss);
}

.stamp.begun {
  border-color: var(--copper);
  background: linear-gradient(135deg, var(--copper) 50%, transparent 50%);
}

@media (max-width: 900px) {
  .card {
    display: flex;
    width: auto;
    overflow-x: auto;
    padding: 0;
    border-right: 0;
    border-bottom: 1px solid var(--rule);
  }

  .card a {
    flex: none;
    padding: 6px 10px;
    border-bottom: 3px solid transparent;
    border-left: 0;
  }

  .card a.here {
    border-bottom-color: var(--copper);
  }

  .lines span,
  .stamp {
    display: none;
  }
}
</style>
