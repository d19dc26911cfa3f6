<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Button as AButton } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { answered, client, Refused, type Schemas } from '@/api/client'
import { useBuild, useBuildId, useCircuitProof, useProofStates } from '@/api/queries'
import ProofRecord from '@/components/ProofRecord.vue'
import { fixed, typedNumber } from '@/format'
import { terminalName } from '@/names'
import { type Action, useLive } from '@/stores/live'

const id = useBuildId()
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const live = useLive()
const { data: build } = useBuild(id)
const { data: states } = useProofStates(id)

const circuits = computed(() => {
  const withLoads = new Set(
    build.value?.parts.filter((part) => part.kind === 'load').map((part) => part.circuit),
  )
  return (build.value?.circuits ?? [])
    .filter((circuit) => withLoads.has(circuit.id))
    .sort((a, b) => a.stage - b.stage)
})
const chosenId = computed(() => {
  const named = String(route.params.circuit ?? '')
  return circuits.value.some((row) => row.id === named) ? named : circuits.value[0]?.id
})
const circuit = computed(() => circuits.value.find((row) => row.id === chosenId.value))
const { data: proof, error } = useCircuitProof(id, chosenId)

const typed = reactive<Record<string, { volts: string; amps: string }>>({})
const note = ref('')
const trouble = ref<string | null>(null)
const busy = ref(false)

const draftName = computed(() => `oilstone-readings-${id.value}-${chosenId.value}`)
watch(draftName, restore, { immediate: true })
watch([typed, note], () =>
  sessionStorage.setItem(draftName.value, JSON.stringify({ typed, note: note.value })),
)

function restore(): void {
  for (const load of Object.keys(typed)) delete typed[load]
  note.value = ''
  trouble.value = null
  try {
    const draft = JSON.parse(sessionStorage.getItem(draftName.value) ?? '{}')
    Object.assign(typed, draft.typed ?? {})
    note.value = draft.note ?? ''
  } catch {
    sessionStorage.removeItem(draftName.value)
  }
}

function field(load: string) {
  return (typed[load] ??= { volts: '', amps: '' })
}

/** How a typed reading lies against its band; the band is the core's. */
function verdict(text: string, band: Schemas['BandView']): string {
  if (!text.trim()) return ''
  const value = typedNumber(text)
  if (value === null) return 'not a number'
  if (value < band.low) return 'too low'
  return value > band.high ? 'too high' : 'in band'
}

const outside = computed(() =>
  (proof.value?.loads ?? []).flatMap((load) =>
    [
      verdict(field(load.load).volts, load.volts),
      verdict(field(load.load).amps, load.amps),
    ].filter((word) => word.startsWith('too')),
  ),
)

function stateOf(circuitId: string): Schemas['ProofState'] | undefined {
  return states.value?.find((row) => row.circuit === circuitId)
}

function stateWord(circuitId: string): string {
  const state = stateOf(circuitId)
  if (!state) return 'not tried'
  if (state.stale) return 'changed since'
  return state.passed ? 'passed' : 'not passed'
}

function operateOnBench(): void {
  if (!proof.value) return
  const switches: Action[] = Object.entries(proof.value.switches).map(([of, to]) => ({ do: 'switch', of, to }))
  void live.clear().then(() => live.do({ do: 'key', to: proof.value!.key }, ...switches))
  void router.push({ name: 'bench', params: { id: id.value } })
}

async function record(passed: boolean): Promise<void> {
  const sheet = proof.value
  if (!sheet || !build.value) return
  const wrong = sheet.loads.find((load) =>
    [field(load.load).volts, field(load.load).amps].some(
      (text) => text.trim() && typedNumber(text) === null,
    ),
  )
  if (wrong) {
    trouble.value = `A reading at ${wrong.name} is not a number. Type digits only, for example 12.3.`
    return
  }
  busy.value = true
  trouble.value = null
  const readings = Object.fromEntries(
    sheet.loads.map((load) => [
      load.load,
      { volts: typedNumber(field(load.load).volts), amps: typedNumber(field(load.load).amps) },
    ]),
  )
  try {
    await answered(
      client.POST('/api/builds/{build_id}/circuits/{circuit_id}/proofs', {
        params: { path: { build_id: id.value, circuit_id: sheet.circuit } },
        body: { base: build.value.revision, passed, readings, note: note.value },
      }),
    )
    sessionStorage.removeItem(draftName.value)
    for (const load of Object.keys(typed)) delete typed[load]
    note.value = ''
    await queries.invalidateQueries({ queryKey: ['proofs', id.value] })
    await queries.invalidateQueries({ queryKey: ['proof', id.value] })
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    trouble.value = `Not kept. ${problem.message} What you typed is still here.`
    await queries.invalidateQueries({ queryKey: ['build', id.value] })
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <p v-if="circuits.length === 0" class="empty">
    Nothing to power up yet. <RouterLink :to="{ name: 'stock', params: { id } }">Add a load</RouterLink>
    first.
  </p>
  <div v-else class="power-up">
    <nav class="list" aria-label="Circuits to prove">
      <RouterLink
        v-for="row in circuits"
        :key="row.id"
        :to="{ name: 'power-up', params: { id, circuit: row.id } }"
        :class="{ chosen: row.id === chosenId }"
      >
        <b>{{ row.name }}</b>
        <span :class="stateWord(row.id).replace(' ', '-')">
          <span aria-hidden="true">{{
            { passed: '●', 'not passed': '■', 'changed since': '▲' }[stateWord(row.id)] ?? '○'
          }}</span>
          {{ stateWord(row.id) }}
        </span>
      </RouterLink>
    </nav>

    <section class="step">
      <h1>{{ circuit?.name }}</h1>
      <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
      <p v-else-if="!proof" class="empty">Working out what to expect…</p>
      <template v-else>
        <div class="caution">
          <p v-for="caution in proof.cautions" :key="caution">
            <span aria-hidden="true">⚠</span> {{ caution }}
          </p>
        </div>
        <h2>1 Operate</h2>
        <ul class="large">
          <li v-for="row in proof.operate" :key="row.part">
            {{ row.name }} to <b>{{ row.position }}</b><template v-if="row.held">, and hold it</template>
          </li>
          <li v-if="proof.operate.length === 0">Nothing: it is live as soon as the battery is on.</li>
        </ul>
        <h2>2 See, and measure</h2>
        <table>
          <thead>
            <tr>
              <th scope="col">See</th>
              <th scope="col">Probe</th>
              <th scope="col" class="figure">Expect</th>
              <th scope="col">You read</th>
            </tr>
          </thead>
          <tbody v-for="load in proof.loads" :key="load.load">
            <tr>
              <td rowspan="2">
                <b>{{ load.see }}</b><br /><span class="quiet">{{ load.place }}</span>
              </td>
              <td>
                red on {{ terminalName(build, load.red) }}, black on
                {{ terminalName(build, load.black) }}
              </td>
              <td class="figure band">
                <b>{{ fixed(load.volts.expected, 2) }} V</b>
                {{ fixed(load.volts.low, 2) }} to {{ fixed(load.volts.high, 2) }}
              </td>
              <td class="reading">
                <input
                  v-model="field(load.load).volts"
                  inputmode="decimal"
                  :aria-label="`Volts at ${load.name}`"
                  placeholder="–"
                />
                V
                <span :class="verdict(field(load.load).volts, load.volts).replace(' ', '-')">
                  {{ verdict(field(load.load).volts, load.volts) }}
                </span>
              </td>
            </tr>
            <tr>
              <td>
                clamp on wire {{ build?.wires.find((wire) => wire.id === load.clamp)?.label ?? '–' }}
              </td>
              <td class="figure band">
                <b>{{ fixed(load.amps.expected, 2) }} A</b>
                {{ fixed(load.amps.low, 2) }} to {{ fixed(load.amps.high, 2) }}
              </td>
              <td class="reading">
                <input
                  v-model="field(load.load).amps"
                  inputmode="decimal"
                  :aria-label="`Amps at ${load.name}`"
                  placeholder="–"
                />
                A
                <span :class="verdict(field(load.load).amps, load.amps).replace(' ', '-')">
                  {{ verdict(field(load.load).amps, load.amps) }}
                </span>
              </td>
            </tr>
          </tbody>
        </table>
        <h2>3 Pass, or not</h2>
        <label class="note">
          Note
          <input v-model="note" maxlength="500" placeholder="what you saw, if anything" />
        </label>
        <p v-if="outside.length" class="outside" role="status">
          ▲ {{ outside.length }} {{ outside.length === 1 ? 'reading is' : 'readings are' }} outside its
          band. You decide; the reading is kept with its band.
        </p>
        <p v-if="trouble" class="refusal" role="alert">{{ trouble }}</p>
        <p class="buttons">
          <AButton type="primary" size="large" :loading="busy" @click="record(true)">
            It passed
          </AButton>
          <AButton danger size="large" :disabled="busy" @click="record(false)">It did not</AButton>
          <AButton size="large" @click="operateOnBench">Try it on the bench first</AButton>
        </p>
        <details>
          <summary>If a reading is wrong</summary>
          <ul>
            <li v-for="row in proof.wrong" :key="row">{{ row }}</li>
          </ul>
        </details>
        <ProofRecord :proofs="proof.proofs" />
      </template>
    </section>
  </div>
</template>

<style scoped>
.power-up {
  display: flex;
  height: 100%;
}

.list {
  width: 208px;
  flex: none;
  overflow-y: auto;
  border-right: 1px solid var(--rule);
  background: var(--sheet);
}

.list a {
  display: block;
  padding: 6px 12px;
  border-bottom: 1px solid var(--rule);
  border-left: 3px solid transparent;
  color: var(--ink);
  text-decoration: none;
}

.list a.chosen {
  border-left-color: var(--copper);
  background: var(--copper-wash);
}

.list b {
  display: block;
  font-family: var(--heading);
  font-size: 17px;
  font-weight: 600;
}

.passed,
.in-band {
  color: var(--moss);
}

.not-passed,
.too-low,
.too-high,
.not-a-number,
.outside {
  color: var(--brick);
}

.changed-since {
  color: var(--ochre);
}

.step {
  min-width: 0;
  flex: 1;
  overflow-y: auto;
  padding: 12px 18px 20px;
}

h1 {
  font-size: 30px;
}

h2 {
  margin: 12px 0 4px;
}

.caution {
  margin-top: 6px;
  padding: 6px 12px 0;
  border-left: 4px solid var(--amber);
  background: var(--sheet);
}

.caution p {
  margin-bottom: 5px;
}

.large {
  margin: 0;
  padding-left: 20px;
  font-size: 19px;
}

.band b {
  display: block;
  font-family: var(--heading);
  font-size: 20px;
}

.reading input {
  width: 92px;
  min-height: 40px;
  padding: 2px 8px;
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font-family: var(--heading);
  font-size: 22px;
  text-align: right;
}

.reading span {
  display: block;
}

.note input {
  width: min(460px, 80%);
  min-height: 34px;
  margin-left: 6px;
  padding: 2px 8px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
}

.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin: 12px 0;
}

@media (max-width: 900px) {
  .power-up {
    height: auto;
    flex-direction: column;
  }

  .list {
    display: flex;
    width: auto;
    overflow-x: auto;
    border-right: 0;
    border-bottom: 1px solid var(--rule);
  }

  .list a {
    flex: none;
  }
}
</style>
