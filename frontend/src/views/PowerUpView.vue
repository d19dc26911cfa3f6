<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { useBuild, useBuildId, usePlan, useProofStates } from '@/api/queries'
import CarToday from '@/components/CarToday.vue'
import PhoneLink from '@/components/PhoneLink.vue'
import ProofStep from '@/components/ProofStep.vue'
import ProofSteps from '@/components/ProofSteps.vue'
import SheetTyping from '@/components/SheetTyping.vue'
import SideSheet from '@/components/SideSheet.vue'
import { hours, markOf } from '@/proving'
import { useProofs } from '@/stores/proofs'

const id = useBuildId()
const route = useRoute()
const router = useRouter()
const { data: build } = useBuild(id)
const { data: plan, error, isFetching } = usePlan(id)
const { data: states } = useProofStates(id, true)
const proofs = useProofs()
const queries = useQueryClient()

// how many steps there are is known once they are written: the route card asks again
watch(plan, () => states.value?.steps ?? queries.invalidateQueries({ queryKey: ['proofs', id.value] }))

/** Paper as it is usual where the browser is from (North America: letter). */
const paper = computed(() => (/-(US|CA|MX)$/.test(navigator.language) ? 'letter' : 'A4'))
const side = ref<'' | 'today' | 'phone'>('')
/** A phone that was let in came by the only way that is encrypted. */
const onPhone = location.protocol === 'https:'
const listOpen = ref(false)

const stateOf = computed(() => new Map(states.value?.states.map((row) => [row.step, row])))
const marks = computed(
  () => new Map(plan.value?.steps.map((step) => [step.id, markOf(step, stateOf.value.get(step.id))])),
)
const circuit = computed(() => String(route.query.circuit ?? ''))
const stage = computed(() => Number(route.query.stage ?? 0))
const change = computed(() => String(route.query.change ?? ''))
const left = computed(() => route.query.left === 'yes')
const typing = computed(() => route.query.type === 'yes')
const printed = computed(() => {
  const asked = { circuit: circuit.value, stage: stage.value ? String(stage.value) : '', change: change.value, left: left.value ? 'true' : '', paper: paper.value }
  const query = Object.entries(asked).filter(([, value]) => value)
  return `/api/builds/${id.value}/proofs/sheet?${new URLSearchParams(query)}`
})
const circuits = computed(() => {
  const named = new Set(plan.value?.steps.map((step) => step.circuit))
  return (build.value?.circuits ?? []).filter((row) => named.has(row.id))
})
const stages = computed(() => [...new Set(plan.value?.steps.map((step) => step.stage))].sort((a, b) => a - b))

const shown = computed(() =>
  (plan.value?.steps ?? []).filter(
    (step) =>
      (!circuit.value || step.circuit === circuit.value) &&
      (!stage.value || step.stage === stage.value) &&
      (!change.value || step.change === change.value) &&
      (!left.value || marks.value.get(step.id) !== 'passed' || step.id === route.params.step),
  ),
)
const chosen = computed(() => {
  const named = shown.value.find((step) => step.id === String(route.params.step ?? ''))
  const next = shown.value.find((step) => ['open', 'again', 'failed'].includes(marks.value.get(step.id)!))
  return named ?? next ?? shown.value[0]
})
const number = computed(() => shown.value.findIndex((step) => step.id === chosen.value?.id))

const counts = computed(() => {
  const found = { passed: 0, failed: 0, again: 0, waits: 0, open: 0 }
  for (const mark of marks.value.values()) found[mark] += 1
  return found
})
const minutesLeft = computed(() =>
  (plan.value?.steps ?? [])
    .filter((step) => !['passed', 'waits'].includes(marks.value.get(step.id)!))
    .reduce((sum, step) => sum + step.minutes, 0),
)

function choose(query: Record<string, string | undefined>): void {
  void router.replace({ name: 'power-up', params: { id: id.value }, query: { ...route.query, ...query } })
}

function go(by: number): void {
  const step = shown.value[number.value + by]
  if (step) void router.push({ name: 'power-up', params: { id: id.value, step: step.id }, query: route.query })
}

function turn(sheet: 'today' | 'phone'): void {
  side.value = side.value === sheet ? '' : sheet
}

function afterwards(passed: boolean): void {
  if (passed) go(1)
}

let awake: { release(): Promise<void> } | undefined

/** Keep the screen of a phone on while a step is before one. */
async function stayAwake(): Promise<void> {
  if (document.visibilityState !== 'visible') return
  try {
    awake = await navigator.wakeLock?.request('screen')
  } catch {
    awake = undefined // a browser that cannot, or a battery that is low
  }
}

onMounted(() => {
  void stayAwake()
  document.addEventListener('visibilitychange', stayAwake)
})
onBeforeUnmount(() => {
  document.removeEventListener('visibilitychange', stayAwake)
  void awake?.release()
})
</script>

<template>
  <p v-if="error && !plan" class="refusal padded" role="alert">{{ error.message }}</p>
  <p v-else-if="!plan" class="empty" role="status">Writing the steps and working out what to expect…</p>
  <p v-else-if="!build?.parts.some((part) => part.kind === 'load')" class="empty">
    Nothing to power up yet. <RouterLink :to="{ name: 'stock', params: { id } }">Add a load</RouterLink> first.
  </p>
  <div v-else class="power-up">
    <div class="left" :class="{ shut: !listOpen }">
      <div class="choice">
        <select :value="circuit" aria-label="Circuit" @change="choose({ circuit: ($event.target as HTMLSelectElement).value || undefined })">
          <option value="">the whole car</option>
          <option v-for="row in circuits" :key="row.id" :value="row.id">{{ row.name }}</option>
        </select>
        <select v-if="stages.length > 1" :value="stage" aria-label="Stage" @change="choose({ stage: ($event.target as HTMLSelectElement).value || undefined })">
          <option :value="0">all stages</option>
          <option v-for="row in stages" :key="row" :value="row">stage {{ row }}</option>
        </select>
        <select
          v-if="plan.changes.length"
          class="change"
          :value="change"
          aria-label="Step of the change-over"
          @change="choose({ change: ($event.target as HTMLSelectElement).value || undefined })"
        >
          <option value="">all of the change-over</option>
          <option v-for="row in plan.changes" :key="row" :value="row">change-over: {{ row.toLowerCase() }}</option>
        </select>
        <label><input type="checkbox" :checked="left" @change="choose({ left: left ? undefined : 'yes' })" /> what is left</label>
      </div>
      <div class="paper">
        <a :href="printed" target="_blank" rel="noopener">Print the sheet (PDF)</a>
        <RouterLink :to="{ query: { ...route.query, type: typing ? undefined : 'yes' } }">{{ typing ? 'Back to the steps' : 'Type in a sheet' }}</RouterLink>
      </div>
      <ProofSteps :sections="plan.sections" :steps="shown" :marks="marks" :chosen="chosen?.id" @click="listOpen = false" />
    </div>

    <div class="main">
      <div class="bar">
        <button v-if="!typing" type="button" class="turn" :disabled="number <= 0" aria-label="Step before" @click="go(-1)">‹</button>
        <button type="button" class="all" :aria-expanded="listOpen" @click="listOpen = !listOpen">All steps</button>
        <span class="counts" role="status" aria-label="How far">
          <b>{{ counts.passed }}</b> of {{ plan.steps.length }} passed<template v-if="counts.failed">, {{ counts.failed }} not right</template
          ><template v-if="counts.again">, {{ counts.again }} again</template><template v-if="counts.waits">, {{ counts.waits }} wait</template>
          <span class="quiet more"> · about {{ hours(minutesLeft) }} left</span>
          <span v-if="isFetching" class="quiet"> · working out what to expect…</span>
          <span v-if="proofs.waiting" class="waiting"> · {{ proofs.waiting }} not sent yet, kept here</span>
        </span>
        <label class="who">
          <span class="visually-hidden">Who measures</span>
          <input :value="proofs.who" maxlength="40" placeholder="who measures" @change="proofs.setWho(($event.target as HTMLInputElement).value)" />
        </label>
        <button type="button" class="today" :aria-expanded="side === 'today'" @click="turn('today')">
          {{ plan.today.battery_v ? `${plan.today.battery_v.toFixed(2)} V today` : 'Car today' }}<template v-if="plan.today.missing.length">, {{ plan.today.missing.length }} missing</template
          ><template v-if="plan.today.jumpers.length">, {{ plan.today.jumpers.length }} jumpered</template>
        </button>
        <button type="button" :class="{ phone: !onPhone }" :aria-expanded="side === 'phone'" @click="turn('phone')">Phone</button>
        <button v-if="!typing" type="button" class="turn" :disabled="number >= shown.length - 1" aria-label="Next step" @click="go(1)">›</button>
      </div>
      <div class="beside">
        <div class="sheet">
          <SheetTyping v-if="typing" :steps="plan.steps" :amiss="plan.amiss" :revision="plan.revision" />
          <ProofStep
            v-else-if="chosen"
            :key="chosen.id"
            :step="chosen"
            :number="number + 1"
            :of="shown.length"
            :state="stateOf.get(chosen.id)"
            :amiss="plan.amiss"
            @done="afterwards"
          />
        </div>
        <SideSheet v-if="side === 'today'" name="The car today" label="The car today" @close="side = ''">
          <CarToday :today="plan.today" />
        </SideSheet>
        <SideSheet v-if="side === 'phone'" name="On a phone" label="On a phone" @close="side = ''">
          <PhoneLink :to="route.path" />
        </SideSheet>
      </div>
    </div>
  </div>
</template>

<style scoped>
.power-up {
  display: flex;
  height: 100%;
}

.padded {
  margin: 16px;
}

.left {
  display: flex;
  width: 300px;
  flex: none;
  flex-direction: column;
  border-right: 1px solid var(--rule);
  background: var(--sheet);
}

.choice {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  padding: 8px 10px;
  border-bottom: 1px solid var(--rule);
}

.choice select {
  min-width: 0;
  height: 30px;
  flex: 1;
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.choice .change {
  flex-basis: 100%;
}

.paper {
  display: flex;
  justify-content: space-between;
  padding: 6px 10px;
  border-bottom: 1px solid var(--rule);
}

.main {
  display: flex;
  min-width: 0;
  flex: 1;
  flex-direction: column;
}

.bar {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 6px 12px;
  border-bottom: 1px solid var(--rule);
  background: var(--sheet);
}

.counts {
  min-width: 0;
  flex: 1;
}

.waiting {
  color: var(--ochre);
}

.bar button {
  min-height: 32px;
  padding: 2px 10px;
  border: 1px solid var(--copper);
  border-radius: 3px;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
}

.bar button:disabled {
  border-color: var(--rule);
  color: var(--quiet);
  cursor: default;
}

.bar .turn {
  min-width: 40px;
  font-size: 20px;
  line-height: 1;
}

.all {
  display: none;
}

.who input {
  width: 120px;
  height: 32px;
  padding: 0 8px;
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.beside {
  display: flex;
  min-height: 0;
  flex: 1;
}

.sheet {
  min-width: 0;
  flex: 1;
  overflow-y: auto;
}

@media (min-width: 701px) {
  .sheet {
    container-type: inline-size;
  }
}

@media (max-width: 1000px) {
  .power-up {
    height: auto;
    flex-direction: column;
  }

  .left {
    width: auto;
    max-height: 60vh;
    border-right: 0;
    border-bottom: 1px solid var(--rule);
  }

  .left.shut {
    display: none;
  }

  .all {
    display: inline-block;
  }

  .bar {
    position: sticky;
    z-index: 4;
    top: 0;
    flex-wrap: wrap;
  }

  .beside {
    flex-direction: column-reverse;
  }
}

@media (max-width: 700px) {
  .bar button {
    min-height: 44px;
  }

  .bar .more,
  .bar .phone,
  .who {
    display: none;
  }

  .counts {
    width: 100%;
    flex: none;
    order: -1;
  }
}
</style>
