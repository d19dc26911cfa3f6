<script setup lang="ts">
import { computed, ref } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBoard, useBuildId } from '@/api/queries'
import { byId } from '@/byId'
import { fixed } from '@/format'

/** The loom laid flat from its measured runs; a wire that is chosen lights its way. */
const props = defineProps<{ build: BuildView; make: Schemas['MakeView'] }>()
const id = useBuildId()
const { data: board, error } = useBoard(id)
const { edit } = useEdits(id)
const lay = (laying: string) =>
  edit(`Wires ${laying}`, [{ op: 'change', collection: 'build', id: 'build', fields: { policy: { laying } } }])

type Spot = Schemas['Spot']
type Leg = Schemas['BoardLeg']

const WIDTH = 1080
const zoom = ref(1)
const wire = ref('')
const spot = ref('')
const leg = ref('')

const scale = computed(() => WIDTH / Math.max(board.value?.width_mm ?? 1, 1))
const px = (mm: number) => mm * scale.value
const lit = (row: Leg) => (wire.value ? row.wires.includes(wire.value) : row.run === leg.value)
const ends = (row: Spot) => wire.value !== '' && row.ends.some((end) => end.wires.includes(wire.value))
const chosenSpot = computed(() => board.value?.spots.find((row) => row.place === spot.value))
/** What is taped together in the run that is chosen; the wires that lead somewhere alone come last. */
const taped = computed(() => {
  const groups = chosenLeg.value?.taped ?? []
  const alone = groups.filter((group) => group.wires.length === 1)
  const rest = { name: 'Each by itself', wires: alone.flatMap((group) => group.wires), labels: alone.flatMap((group) => group.labels) }
  return [...groups.filter((group) => group.wires.length > 1), ...(alone.length ? [rest] : [])]
})
const chosenLeg = computed(() => board.value?.legs.find((row) => row.run === leg.value))
const labels = computed(() => new Map(props.make.workshop.wires.map((line) => [line.id, line.label])))
const line = computed(() => byId(props.make.workshop.wires).get(wire.value))

function choose(kind: 'spot' | 'leg', name: string): void {
  spot.value = kind === 'spot' ? name : ''
  leg.value = kind === 'leg' ? name : ''
  if (kind === 'leg') wire.value = ''
}

interface Named {
  x: number
  y: number
  anchor: 'start' | 'middle' | 'end'
}
interface Box {
  left: number
  right: number
  top: number
  low: number
}

const LETTER = 6.1

/** The directions in which legs leave a spot. */
function away(row: Spot): number[] {
  return (board.value?.legs ?? []).flatMap((other) => {
    const first = other.x1_mm === row.x_mm && other.y1_mm === row.y_mm
    const last = other.x2_mm === row.x_mm && other.y2_mm === row.y_mm && !other.parted
    if (!first && !last) return []
    const turned = first ? 1 : -1
    return [Math.atan2(turned * (other.y2_mm - other.y1_mm), turned * (other.x2_mm - other.x1_mm))]
  })
}

/** Where the names of spots stand: beside no leg of theirs, on no other name, on the paper. */
const names = computed(() => {
  const taken: Box[] = (board.value?.spots ?? []).map((row) => around(px(row.x_mm), px(row.y_mm), 8, 8))
  const lines = (board.value?.legs ?? []).flatMap((row) => {
    const steps = Math.max(Math.round(px(row.length_mm) / 12), 1)
    return Array.from({ length: steps + 1 }, (_, n) => {
      const part = n / steps
      return around(px(row.x1_mm + (row.x2_mm - row.x1_mm) * part), px(row.y1_mm + (row.y2_mm - row.y1_mm) * part), 2, 2)
    })
  })
  const placed = new Map<string, Named>()
  for (const row of board.value?.spots ?? []) {
    const legs = away(row)
    const wide = row.name.length * LETTER
    const [x, y] = [px(row.x_mm), px(row.y_mm)]
    const sides: (Named & { at: number; box: Box })[] = [
      { at: Math.PI / 2, x, y: y + 23, anchor: 'middle', box: around(x, y + 19, wide / 2, 7) },
      { at: -Math.PI / 2, x, y: y - 13, anchor: 'middle', box: around(x, y - 17, wide / 2, 7) },
      { at: 0, x: x + 12, y: y + 4, anchor: 'start', box: around(x + 12 + wide / 2, y, wide / 2, 7) },
      { at: Math.PI, x: x - 12, y: y + 4, anchor: 'end', box: around(x - 12 - wide / 2, y, wide / 2, 7) },
      { at: Math.PI / 4, x: x + 8, y: y + 22, anchor: 'start', box: around(x + 8 + wide / 2, y + 18, wide / 2, 7) },
      { at: -Math.PI / 4, x: x + 8, y: y - 12, anchor: 'start', box: around(x + 8 + wide / 2, y - 16, wide / 2, 7) },
      { at: (3 * Math.PI) / 4, x: x - 8, y: y + 22, anchor: 'end', box: around(x - 8 - wide / 2, y + 18, wide / 2, 7) },
      { at: (-3 * Math.PI) / 4, x: x - 8, y: y - 12, anchor: 'end', box: around(x - 8 - wide / 2, y - 16, wide / 2, 7) },
    ]
    const worst = (side: { at: number; box: Box }) => {
      const near = Math.min(...legs.map((angle) => Math.abs(Math.atan2(Math.sin(angle - side.at), Math.cos(angle - side.at)))), Math.PI)
      const hits = taken.filter((other) => meets(other, side.box)).length
      const off = side.box.left < 0 || side.box.right > WIDTH ? 1 : 0
      const over = Math.min(lines.filter((other) => meets(other, side.box)).length, 4)
      return 10 * off + 4 * hits + over / 2 + (near < 0.5 ? 3 : 0) - near / 10
    }
    const best = sides.reduce((one, other) => (worst(other) < worst(one) ? other : one))
    taken.push(best.box)
    placed.set(row.place, best)
  }
  return placed
})

function around(x: number, y: number, wide: number, high: number): Box {
  return { left: x - wide, right: x + wide, top: y - high, low: y + high }
}

function meets(one: Box, other: Box): boolean {
  return one.left < other.right && other.left < one.right && one.top < other.low && other.top < one.low
}

/** Clips as strokes across a leg. */
function clips(row: Leg): string {
  const dx = (row.x2_mm - row.x1_mm) / row.length_mm
  const dy = (row.y2_mm - row.y1_mm) / row.length_mm
  const half = Math.max(px(row.diameter_mm) / 2, 1.5) + 4
  return row.clips_mm
    .map((at) => {
      const x = px(row.x1_mm + dx * at)
      const y = px(row.y1_mm + dy * at)
      return `M${x - dy * half} ${y + dx * half} L${x + dy * half} ${y - dx * half}`
    })
    .join(' ')
}

const said = (row: Leg) =>
  `${row.name}: ${fixed(row.length_mm / 1000, 2)} m, ${row.wires.length} wires, ${fixed(row.diameter_mm, 0)} mm`
</script>

<template>
  <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
  <p v-else-if="!board" class="empty">Laying the loom flat…</p>
  <p v-else-if="!board.legs.length" class="empty">No wire goes through any run yet: measure runs in Lay out, and wire something.</p>
  <template v-else>
    <p class="list-bar no-print">
      <label>
        Light
        <select v-model="wire" class="field">
          <option value="">no wire</option>
          <option v-for="row in make.workshop.wires" :key="row.id" :value="row.id">{{ row.label }} {{ row.size }} {{ row.colour }}</option>
        </select>
      </label>
      <label>
        Zoom
        <select v-model="zoom" class="field">
          <option v-for="step in [1, 1.5, 2, 3, 4]" :key="step" :value="step">{{ step * 100 }} %</option>
        </select>
      </label>
      <label>
        Wires lie
        <select class="field" :value="build.policy.laying" @change="lay(($event.target as HTMLSelectElement).value)">
          <option>side by side</option>
          <option>twisted</option>
        </select>
      </label>
      <span class="quiet">{{ fixed(board.width_mm / 1000, 1) }} × {{ fixed(board.height_mm / 1000, 1) }} m; strokes across are clips. Press a place or a run.</span>
    </p>
    <ul v-if="board.parted.length" class="parted">
      <li v-for="words in board.parted" :key="words">▲ {{ words }}.</li>
    </ul>
    <div class="columns">
      <div class="sheet scrolls">
        <svg :viewBox="`0 0 ${WIDTH} ${px(board.height_mm)}`" :style="{ width: `${zoom * 100}%` }" role="group" aria-label="The loom laid flat">
          <g v-for="row in board.legs" :key="row.run" class="leg" :class="{ lit: lit(row), dim: wire && !lit(row), free: row.parted }">
            <line
              class="bundle"
              :x1="px(row.x1_mm)"
              :y1="px(row.y1_mm)"
              :x2="px(row.x2_mm)"
              :y2="px(row.y2_mm)"
              :stroke-width="Math.max(px(row.diameter_mm), 2.5)"
            />
            <path class="clips" :d="clips(row)" />
            <line
              class="hit"
              :x1="px(row.x1_mm)"
              :y1="px(row.y1_mm)"
              :x2="px(row.x2_mm)"
              :y2="px(row.y2_mm)"
              stroke-width="16"
              role="button"
              tabindex="0"
              :aria-label="said(row)"
              @click="choose('leg', row.run)"
              @keydown.enter.prevent="choose('leg', row.run)"
            >
              <title>{{ said(row) }}</title>
            </line>
          </g>
          <g v-for="row in board.spots" :key="row.place" class="spot" :class="{ lit: ends(row) || row.place === spot }">
            <circle
              :cx="px(row.x_mm)"
              :cy="px(row.y_mm)"
              r="6.5"
              role="button"
              tabindex="0"
              :aria-label="`${row.name}: ${row.ends.length} parts`"
              @click="choose('spot', row.place)"
              @keydown.enter.prevent="choose('spot', row.place)"
            />
            <text :x="names.get(row.place)?.x" :y="names.get(row.place)?.y" :text-anchor="names.get(row.place)?.anchor">{{ row.name }}</text>
          </g>
        </svg>
      </div>
      <aside class="sheet" aria-label="What is chosen">
        <template v-if="line">
          <h2>{{ line.label }}</h2>
          <p>{{ line.size }} {{ line.colour }}, cut at {{ fixed(line.cut_m, 2) }} m.</p>
          <p>{{ line.start.says }} to {{ line.end.says }}.</p>
          <p v-if="!line.legs.length" class="quiet">It stays within one place.</p>
        </template>
        <template v-if="chosenSpot">
          <h2>{{ chosenSpot.name }}</h2>
          <ul>
            <li v-for="end in chosenSpot.ends" :key="end.part">
              <b>{{ end.name }}</b>
              <button v-for="(label, n) in end.labels" :key="label" class="plain" @click="wire = end.wires[n]!">{{ label }}</button>
            </li>
          </ul>
          <ul v-if="chosenSpot.splices.length" class="splices" aria-label="Joined here">
            <li v-for="says in chosenSpot.splices" :key="says">{{ says }}</li>
          </ul>
          <p v-if="!chosenSpot.ends.length" class="quiet">Nothing ends here: a branch.</p>
        </template>
        <template v-else-if="chosenLeg">
          <h2>{{ chosenLeg.name }}</h2>
          <p>
            {{ fixed(chosenLeg.length_mm / 1000, 2) }} m, {{ fixed(chosenLeg.diameter_mm, 0) }} mm over {{ chosenLeg.wires.length }} wires;
            {{ chosenLeg.cover === 'none' ? 'no cover' : chosenLeg.cover }}; {{ chosenLeg.clips_mm.length }} clips{{ chosenLeg.hole ? `; ${chosenLeg.hole}` : '' }}.
          </p>
          <ol v-if="chosenLeg.layers.length" aria-label="Layers from inside out">
            <li v-for="(layer, n) in chosenLeg.layers" :key="n">
              {{ n === 0 ? 'core, straight' : `turned ${layer.turns}, a turn every ${fixed(layer.lay_mm, 0)} mm` }}, {{ fixed(layer.over_mm, 1) }} mm over it:
              {{ layer.labels.join(', ') }}{{ layer.fillers ? ` and ${layer.fillers} ${layer.fillers === 1 ? 'filler' : 'fillers'}` : '' }}
            </li>
          </ol>
          <template v-else-if="chosenLeg.taped.length">
            <p class="quiet">Tape what leads from one place to another together before it is laid: it leaves the bundle as one.</p>
            <dl aria-label="Groups to tape">
              <template v-for="group in taped" :key="group.name">
                <dt>{{ group.name }}</dt>
                <dd><button v-for="(label, n) in group.labels" :key="label" class="plain" @click="wire = group.wires[n]!">{{ label }}</button></dd>
              </template>
            </dl>
          </template>
          <p v-else>
            <button v-for="one in chosenLeg.wires" :key="one" class="plain" @click="wire = one">{{ labels.get(one) ?? one }}</button>
          </p>
        </template>
        <p v-if="!line && !chosenSpot && !chosenLeg" class="quiet">A place tells what ends there; a run what goes through it.</p>
      </aside>
    </div>
  </template>
</template>

<style scoped>

.parted {
  margin: 0;
  padding-left: 4px;
  color: var(--ochre);
  list-style: none;
}

.columns {
  display: grid;
  min-height: 0;
  flex: 1;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr) 250px;
}

.scrolls {
  overflow: auto;
  padding: 6px;
}

aside {
  overflow-y: auto;
  padding: 8px 12px;
}

ul {
  margin: 4px 0;
  padding-left: 16px;
}

.bundle {
  stroke: var(--quiet);
  stroke-linecap: round;
}

.clips {
  fill: none;
  stroke: var(--quiet);
}

.hit {
  cursor: pointer;
  stroke: transparent;
}

.free .bundle {
  stroke-dasharray: 8 5;
}

.leg.lit .bundle {
  stroke: var(--amber);
}

.leg.dim .bundle {
  stroke: var(--rule);
}

circle {
  cursor: pointer;
  fill: var(--sheet);
  stroke: var(--ink);
  stroke-width: 1.5;
}

.spot.lit circle {
  fill: var(--amber);
}

text {
  fill: var(--ink);
  font-family: var(--text);
  font-size: 12px;
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 3px;
}

@media (max-width: 900px) {
  svg {
    min-width: 1000px;
  }

  .columns {
    grid-template-columns: minmax(0, 1fr);
    overflow: auto;
  }
}
</style>
