<script setup lang="ts">
import { computed, ref } from 'vue'

import type { BuildView, Operation, Schemas } from '@/api/client'
import { colourCss } from '@/colours'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import SteadyField from '@/components/SteadyField.vue'
import { fixed, listed, typedNumber } from '@/format'

/** The wires in the order in which they are made, ticked off step by step. */
const props = defineProps<{ build: BuildView; make: Schemas['MakeView'] }>()
const emit = defineEmits<{ tick: [wires: string[], step: string, done: boolean]; built: [wire: string] }>()
const { edit } = useEdits(useBuildId())

type Line = Schemas['WireLine']
const GROUPINGS: Record<string, (line: Line) => string> = {
  circuit: (line) => line.circuit_name || 'no circuit',
  stage: (line) => `Stage ${line.stage}, ${line.tape} tape`,
  colour: (line) => line.colour,
  size: (line) => line.size,
  run: (line) => line.legs[0]?.says ?? 'within one place',
}
const grouping = ref('circuit')
const open = ref<string>()

const groups = computed(() => {
  const found = new Map<string, Line[]>()
  for (const line of props.make.workshop.wires) {
    const name = GROUPINGS[grouping.value]!(line)
    found.set(name, [...(found.get(name) ?? []), line])
  }
  return [...found].map(([name, lines]) => ({ name, lines }))
})
const isDone = (wire: string, step: string) => props.make.done[wire]?.includes(step) ?? false
const wrong = ref('')
const wrongLabel = ref('')

/** What was done otherwise on the day is what the build is from then on. */
async function asBuilt(line: Line, says: string, operation: Operation): Promise<void> {
  wrong.value = ''
  if (await edit(`${line.label} as built: ${says}`, [operation])) emit('built', line.id)
}

function longer(line: Line, text: string): void {
  const metres = typedNumber(text)
  if (metres === null || metres <= 0 || metres > 100) wrong.value = `“${text}” is no length of a wire in m.`
  else void asBuilt(line, `${fixed(metres, 2)} m`, { op: 'cut_at', wire: line.id, metres })
}

function otherColour(line: Line, text: string): void {
  const colour = text.trim().toLowerCase()
  if (!colour) wrong.value = 'Say the colour, as green or green/white.'
  else void asBuilt(line, colour, { op: 'change', collection: 'wires', id: line.id, fields: { colour } })
}

/** Another colour of tape for a stage; the builder's own word for it. */
function otherTape(stage: number, text: string): void {
  const tapes = props.make.workshop.tapes.map((tape, n) => (n + 1 === stage ? text.trim().toLowerCase() || tape : tape))
  void edit(`Stage ${stage}, ${tapes[stage - 1]} tape`, [{ op: 'change', collection: 'build', id: 'build', fields: { policy: { tapes } } }])
}

function policy(says: string, fields: Record<string, number>): void {
  void edit(says, [{ op: 'change', collection: 'build', id: 'build', fields: { policy: fields } }])
}

function labelEvery(text: string): void {
  const metres = typedNumber(text)
  wrongLabel.value = metres === null || metres < 0.1 || metres > 100 ? `“${text}” is no distance between labels: 0.1 to 100 m.` : ''
  if (!wrongLabel.value) policy(`A label every ${metres} m`, { label_every_m: metres! })
}

function labelLetters(text: string): void {
  const letters = text.trim() ? typedNumber(text) : 0
  wrongLabel.value = letters === null || !Number.isInteger(letters) || letters < 0 || letters > 80 ? `“${text}” is no number of letters: 1 to 80, or empty for any.` : ''
  if (!wrongLabel.value) policy(letters ? `Labels of at most ${letters} letters` : 'Labels of any length', { label_letters: letters! })
}

const all = (lines: Line[], step: string) => lines.every((line) => isDone(line.id, step))
const ids = (lines: Line[]) => lines.map((line) => line.id)
</script>

<template>
  <p class="no-print list-bar">
    <label>
      Grouped by
      <select v-model="grouping" class="field">
        <option v-for="(_, name) in GROUPINGS" :key="name" :value="name">{{ name }}</option>
      </select>
    </label>
    <span class="quiet">A tick takes the steps before it along. Press a label for its length and its ends.</span>
    <span class="labels">
      Labels every <SteadyField class="field" aria-label="Labels every, m" :value="String(build.policy.label_every_m)" inputmode="decimal" @put="labelEvery" /> m,
      of at most <SteadyField class="field" aria-label="Letters of a label at most" :value="build.policy.label_letters ? String(build.policy.label_letters) : ''" placeholder="any" inputmode="numeric" @put="labelLetters" /> letters
    </span>
  </p>
  <p v-if="wrongLabel" class="refusal" role="alert">{{ wrongLabel }}</p>
  <p v-if="make.workshop.long_labels.length" class="refusal" role="status">
    {{ make.workshop.long_labels.length === 1 ? 'This label is' : `${make.workshop.long_labels.length} labels are` }} longer than the printer takes: {{ listed(make.workshop.long_labels, 12) }}. In the files they stand whole; give them shorter ones in Circuits, Wires and parts.
  </p>
  <div class="sheet list-scrolls">
    <table>
      <caption class="visually-hidden">Wires to make</caption>
      <thead>
        <tr>
          <th scope="col">Label</th>
          <th scope="col">Wire</th>
          <th scope="col" class="figure">Cut m</th>
          <th scope="col">From</th>
          <th scope="col">To</th>
          <th v-for="step in make.steps" :key="step" scope="col" class="step">{{ step }}</th>
        </tr>
      </thead>
      <tbody v-for="group in groups" :key="group.name">
        <tr class="head">
          <th scope="rowgroup" colspan="5">
            {{ group.name }} <span class="quiet">{{ group.lines.length }}</span>
            <label v-if="grouping === 'stage'" class="tape no-print">
              tape
              <SteadyField class="field" :aria-label="`Tape of stage ${group.lines[0]!.stage}`" :value="group.lines[0]!.tape" maxlength="40" @put="(text) => otherTape(group.lines[0]!.stage, text)" />
            </label>
          </th>
          <td v-for="step in make.steps" :key="step" class="step" :data-of="step">
            <input
              type="checkbox"
              :checked="all(group.lines, step)"
              :aria-label="`All of ${group.name} ${step}`"
              @change="emit('tick', ids(group.lines), step, !all(group.lines, step))"
            />
          </td>
        </tr>
        <template v-for="line in group.lines" :key="line.id">
          <tr :class="{ done: isDone(line.id, 'laid') }">
            <th scope="row">
              <button class="plain" :aria-expanded="open === line.id" @click="open = open === line.id ? undefined : line.id">{{ line.label }}</button>
            </th>
            <td><i class="swatch" :style="{ background: colourCss(line.colour) }" aria-hidden="true"></i>{{ line.size }} {{ line.colour }}</td>
            <td class="figure" data-of="m">{{ fixed(line.cut_m, 2) }}</td>
            <td class="end" data-of="from">{{ line.start.says }}</td>
            <td class="end" data-of="to">{{ line.end.says }}</td>
            <td v-for="step in make.steps" :key="step" class="step" :data-of="step">
              <input
                type="checkbox"
                :checked="isDone(line.id, step)"
                :aria-label="`${line.label} ${step}`"
                @change="emit('tick', [line.id], step, !isDone(line.id, step))"
              />
            </td>
          </tr>
          <tr v-if="open === line.id" class="detail">
            <td colspan="9">
              <dl>
                <dt>Length</dt>
                <dd>
                  <template v-if="line.given_m !== null">{{ fixed(line.given_m, 2) }} m as given</template>
                  <template v-for="(leg, n) in line.legs" :key="leg.run">{{ n ? ' + ' : '' }}{{ leg.says }} {{ fixed(leg.length_m, 2) }}</template>
                  <template v-if="line.given_m === null && !line.legs.length">within one place</template>
                  + {{ fixed(line.ends_m, 2) }} for the ends{{ line.twist_m ? ` + ${fixed(line.twist_m, 2)} for the twist` : '' }} = {{ fixed(line.length_m, 2) }} m, cut at {{ fixed(line.cut_m, 2) }} m
                </dd>
                <template v-for="(end, which) in { From: line.start, To: line.end }" :key="which">
                  <dt>{{ which }}</dt>
                  <dd>
                    {{ end.says }}, {{ end.place }}: {{ end.ends_in }}{{ end.joined_with.length ? ` behind it with ${end.joined_with.join(', ')}` : '' }}, strip {{ end.strip_mm }} mm{{ end.sealed ? ', seal on first' : '' }}; {{ end.joint }}
                  </dd>
                </template>
                <dt>Insulation</dt>
                <dd>{{ line.insulation }}</dd>
                <dt>As built</dt>
                <dd class="built no-print">
                  <label>cut at <SteadyField class="field short" :aria-label="`${line.label} cut at, m`" :value="fixed(line.cut_m, 2)" @put="(text) => longer(line, text)" /> m</label>
                  <label>in <SteadyField class="field" :aria-label="`Colour of ${line.label}`" :value="line.colour" @put="(text) => otherColour(line, text)" /></label>
                  <span class="quiet">where it was done otherwise on the day: the build follows</span>
                  <span v-if="wrong" class="refusal" role="alert">{{ wrong }}</span>
                </dd>
                <dt>Labels</dt>
                <dd>{{ line.labels }}: one at each end{{ line.labels > 2 ? `, ${line.labels - 2} between` : '' }}; stage {{ line.stage }}, {{ line.tape }} tape</dd>
              </dl>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <p v-if="!make.workshop.wires.length" class="empty">No wires yet: draft the wiring from Take stock, or add a function in Circuits.</p>
  </div>
</template>

<style scoped>
.labels {
  margin-left: auto;
}

.labels input {
  width: 54px;
}

.tape {
  margin-left: 18px;
  color: var(--quiet);
}

.tape input {
  width: 110px;
}

.step {
  width: 62px;
  text-align: center;
}

.done td,
.done th {
  color: var(--quiet);
}

.detail td {
  background: var(--paper);
}

dl {
  display: grid;
  gap: 2px 12px;
  grid-template-columns: 80px 1fr;
  margin: 2px 0;
}

dt {
  color: var(--quiet);
}

dd {
  margin: 0;
}

.built {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: baseline;
}

.short {
  width: 70px;
}

/* On a phone a wire is a card: what it is, where it goes, and its ticks in a row below. */
@media (max-width: 700px) {
  thead {
    display: none;
  }

  tbody tr:not(.detail) {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    border-bottom: 1px solid var(--rule);
  }

  tr:not(.detail) > :is(td, th) {
    border: 0;
  }

  .head th,
  .end {
    flex-basis: 100%;
  }

  .figure::after {
    content: ' ' attr(data-of);
  }

  .end::before {
    color: var(--quiet);
    content: attr(data-of) ' ';
  }

  .step {
    width: auto;
    flex: 1;
  }

  .step::after {
    display: block;
    color: var(--quiet);
    content: attr(data-of);
    font-size: 12.5px;
  }
}
</style>
