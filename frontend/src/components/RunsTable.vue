<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { byId } from '@/byId'
import { fixed } from '@/format'
import { options, remove } from '@/looms'
import { useLive } from '@/stores/live'

import EditCell from './EditCell.vue'

type Run = Schemas['RunView']

const props = defineProps<{ build: BuildView; layout: Schemas['LayoutView'] | undefined }>()
const chosen = defineModel<string | null>('chosen', { required: true })
const emit = defineEmits<{ wire: [wire: string] }>()

const COVERS = ['none', 'tape', 'split tube', 'convoluted tube', 'shrink sleeve', 'braid']
const HAZARDS = ['hot part', 'moving hinge', 'edge', 'bulkhead', 'wheel', 'fuel line']
const FITS = ['none', 'grommet', 'connector']

const id = useBuildId()
const { edit } = useEdits(id)
const from = ref('')
const to = ref('')
const length = ref('')

const run = computed(() => props.build.runs.find((row) => row.id === chosen.value) ?? null)
const passing = computed(() =>
  (props.layout?.runs[chosen.value ?? '']?.wires ?? []).map((wire) => ({
    wire,
    label: byId(props.build.wires).get(wire)?.label ?? wire,
    size: props.layout?.wires[wire]?.size ?? '',
  })),
)

const live = useLive()
/** The most that a wire in a run carries now, in A. */
const now = (row: Run) =>
  Math.max(0, ...(props.layout?.runs[row.id]?.wires ?? []).map((wire) => Math.abs(live.wireAmps(wire) ?? 0)))

function place(spot: string): string {
  return props.build.places.find((row) => row.id === spot)?.name ?? spot
}

function title(row: Run): string {
  return `${place(row.from_place)} – ${place(row.to_place)}`
}

async function addRun(): Promise<void> {
  const cells: Record<string, string> = { from: from.value, to: to.value }
  if (length.value.trim()) cells.length = length.value
  await edit(`Join ${place(from.value)} and ${place(to.value)}`, [{ op: 'set_run', cells }], () => {
    from.value = to.value = length.value = ''
  })
}

function set(row: Run, field: string, words: string) {
  return (text: string, done: () => void) =>
    edit(`${words} of ${title(row)}`.slice(0, 200), [{ op: 'set_run', run: row.id, cells: { [field]: text } }], done)
}

function tick(row: Run, hazard: string): void {
  const passes = row.passes.includes(hazard)
    ? row.passes.filter((one) => one !== hazard)
    : [...row.passes, hazard]
  const cells = { passes: passes.join(', ') }
  void edit(`What ${title(row)} passes`.slice(0, 200), [{ op: 'set_run', run: row.id, cells }])
}

function drop(row: Run): void {
  chosen.value = null
  void edit(`Remove the run ${title(row)}`.slice(0, 200), [remove('runs', row.id)])
}
</script>

<template>
  <div class="pane split">
    <form @submit.prevent="addRun">
      <select v-model="from" aria-label="From" required>
        <option value="" disabled>from…</option>
        <option v-for="one in build.places" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
      <select v-model="to" aria-label="To" required>
        <option value="" disabled>to…</option>
        <option v-for="one in build.places" :key="one.id" :value="one.id">{{ one.name }}</option>
      </select>
      <input v-model="length" class="short" aria-label="Measured length" placeholder="1.2 m, 3 ft 4" />
      <AButton html-type="submit" type="primary" size="small">Add the run</AButton>
    </form>
    <div class="rows">
      <table>
        <caption class="visually-hidden">
          Runs
        </caption>
        <thead>
          <tr>
            <th scope="col">Run</th>
            <th scope="col" class="figure">Length, m</th>
            <th scope="col" class="figure" title="Straight on the plan">Plan, m</th>
            <th scope="col" class="figure">Wires</th>
            <th scope="col" class="figure">Bundle, mm</th>
            <th scope="col" class="figure">Weight, g</th>
            <th v-if="live.isLive" scope="col" class="figure" title="The most that a wire in it carries now">Now, A</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in build.runs" :key="row.id" :class="{ chosen: row.id === chosen }" @click="chosen = row.id">
            <td>
              <button type="button" :aria-current="row.id === chosen" @click.stop="chosen = row.id">{{ title(row) }}</button>
              <span v-if="row.passes.length" :title="`passes ${row.passes.join(', ')}`" aria-hidden="true"> ⚠</span>
            </td>
            <td class="figure">
              <EditCell
                label="length"
                :text="String(row.length_m)"
                :note="row.measured ? 'measured' : 'guessed from the plan: measure it in the car and type it here'"
                :save="set(row, 'length', 'Length')"
              />
            </td>
            <td class="figure" :class="{ far: layout?.runs[row.id]?.far }">
              {{ layout?.runs[row.id]?.far ? '▲ ' : '' }}{{ fixed(layout?.runs[row.id]?.drawn_m, 2) }}
            </td>
            <td class="figure">{{ layout?.runs[row.id]?.wires.length ?? '–' }}</td>
            <td class="figure">{{ fixed(layout?.runs[row.id]?.diameter_mm, 1) }}</td>
            <td class="figure">{{ fixed(layout?.runs[row.id]?.mass_g, 0) }}</td>
            <td v-if="live.isLive" class="figure live">{{ fixed(now(row), 1) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="build.runs.length === 0" class="empty">
        No runs yet. Join two places and type the length measured in the car: every wire’s length comes
        from these.
      </p>
    </div>
    <section v-if="run" class="detail" :aria-label="title(run)">
      <h2>{{ title(run) }}</h2>
      <p class="quiet">
        {{ run.measured ? 'Length measured in the car.' : 'Length guessed from the plan: lay a string along the way, and type its length above.' }}
        <template v-if="layout?.runs[run.id]?.far"> The plan says {{ fixed(layout?.runs[run.id]?.drawn_m, 2) }} m straight: one of them is wrong.</template>
      </p>
      <div class="facts">
        <span>Cover</span>
        <EditCell label="cover" :text="run.cover" :options="options(COVERS)" :save="set(run, 'cover', 'Cover')" />
        <span>Clips every, mm</span>
        <EditCell label="fixings" :text="String(run.fixings_mm)" :save="set(run, 'fixings', 'Clips')" />
        <span>Hole, mm</span>
        <EditCell label="hole" :text="run.hole_mm === null ? '' : String(run.hole_mm)" :save="set(run, 'hole', 'Hole')" />
        <span>In the hole</span>
        <EditCell label="in the hole" :text="run.hole_fit" :options="options(FITS)" :save="set(run, 'hole_fit', 'Hole')" />
      </div>
      <h3>Passes</h3>
      <p class="ticks">
        <label v-for="hazard in HAZARDS" :key="hazard">
          <input type="checkbox" :checked="run.passes.includes(hazard)" @change="tick(run, hazard)" /> {{ hazard }}
        </label>
      </p>
      <h3>{{ passing.length }} wires pass here</h3>
      <p class="ticks">
        <button v-for="row in passing" :key="row.wire" type="button" class="plain" @click="emit('wire', row.wire)">
          {{ row.label }} <span class="quiet">{{ row.size }}</span>
        </button>
      </p>
      <AButton danger size="small" @click="drop(run)">Remove the run</AButton>
    </section>
  </div>
</template>

<style scoped src="../pane.css"></style>
<style scoped>
.pane form .short {
  width: 104px;
}

.pane form select {
  width: 170px;
}
</style>
