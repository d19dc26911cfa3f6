<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { colourCss } from '@/colours'
import { fixed, typedNumber } from '@/format'

/** What is cut from which reel, and the reels that are at hand. */
const props = defineProps<{ build: BuildView; make: Schemas['MakeView'] }>()
const emit = defineEmits<{ tick: [wires: string[], step: string, done: boolean] }>()
const { edit } = useEdits(useBuildId())

const kinds = computed(() => {
  const found = new Map(props.make.workshop.wires.map((line) => [`${line.size} ${line.colour}`, line]))
  return [...found].map(([name, line]) => ({ name, size: line.size, colour: line.colour }))
})
const labels = computed(() => new Set(props.make.workshop.wires.map((line) => line.id)))
/** What is ticked off with a reel; a tail is cut with the wire that it is like. */
const wires = (reel: Schemas['CutReel']) => reel.pieces.map((piece) => piece.wire).filter((wire) => labels.value.has(wire))
const kind = ref('')
const metres = ref('')
const wrong = ref('')
const bought = computed(() => props.make.workshop.cutting.reduce((sum, group) => sum + group.bought_m, 0))
const needed = computed(() => props.make.workshop.cutting.reduce((sum, group) => sum + group.metres, 0))

async function add(): Promise<void> {
  const chosen = kinds.value.find((row) => row.name === kind.value)
  const length = typedNumber(metres.value)
  wrong.value = !chosen ? 'Choose which wire is on the reel.' : length === null || length <= 0 || length > 1000 ? `“${metres.value}” is no length of a reel in m.` : ''
  if (wrong.value || !chosen) return
  const taken = new Set(props.build.reels.map((reel) => reel.id))
  let n = 1
  while (taken.has(`reel-${n}`)) n++
  const value = { id: `reel-${n}`, size: chosen.size, colour: chosen.colour, length_m: length }
  if (await edit(`Reel of ${chosen.name}, ${length} m`, [{ op: 'add', collection: 'reels', value }])) metres.value = ''
}

const cutTo = (event: Event) => {
  const cm = Number((event.target as HTMLInputElement).value)
  if (cm >= 1 && cm <= 100) void edit(`Cut to ${cm} cm`, [{ op: 'change', collection: 'build', id: 'build', fields: { policy: { cut_to_m: cm / 100 } } }])
}
</script>

<template>
  <div class="columns">
    <div class="sheet list-scrolls cuts">
      <p class="quiet">{{ fixed(needed, 1) }} m are still to be cut, {{ fixed(bought, 0) }} m to be bought. Each reel in order, the longest first.</p>
      <table>
        <caption class="visually-hidden">What is cut from which reel</caption>
        <thead>
          <tr>
            <th scope="col">Wire</th>
            <th scope="col">Reel</th>
            <th scope="col">Cut, m</th>
            <th scope="col" class="figure">Left m</th>
            <th scope="col">Cut</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="group in make.workshop.cutting" :key="`${group.size} ${group.insulation} ${group.colour}`">
            <tr v-for="(reel, n) in group.reels" :key="n">
              <th scope="row">
                <template v-if="n === 0">
                  <i class="swatch" :style="{ background: colourCss(group.colour) }" aria-hidden="true"></i>{{ group.size }} {{ group.colour }}
                  <small>{{ group.insulation }}</small>
                </template>
              </th>
              <td class="which">{{ reel.at_hand ? `${reel.at_hand}, at hand` : 'buy' }} {{ fixed(reel.length_m, reel.at_hand ? 2 : 0) }} m</td>
              <td>{{ reel.pieces.map((piece) => `${piece.label} ${fixed(piece.length_m, 2)}`).join(' · ') }}</td>
              <td class="figure">{{ fixed(reel.left_m, 2) }}</td>
              <td>
                <input
                  v-if="wires(reel).length"
                  type="checkbox"
                  :checked="false"
                  :aria-label="`${reel.pieces.map((piece) => piece.label).join(', ')} cut`"
                  @change="emit('tick', wires(reel), 'cut', true)"
                />
              </td>
            </tr>
            <tr v-for="piece in group.too_long" :key="piece.wire">
              <th scope="row">{{ group.size }} {{ group.colour }}</th>
              <td colspan="4">▲ {{ piece.label }} takes {{ fixed(piece.length_m, 2) }} m, longer than any reel: order it to length.</td>
            </tr>
          </template>
        </tbody>
      </table>
      <p v-if="!make.workshop.cutting.length" class="empty">Every wire is cut.</p>
    </div>
    <aside class="sheet" aria-label="Reels at hand">
      <h2>Reels at hand</h2>
      <ul>
        <li v-for="reel in build.reels" :key="reel.id">
          {{ reel.id }}: {{ reel.size }} {{ reel.colour }}, {{ fixed(reel.length_m, 1) }} m
          <button class="plain" :aria-label="`${reel.id} used up`" @click="edit(`${reel.id} used up`, [{ op: 'remove', collection: 'reels', id: reel.id }])">used up</button>
        </li>
      </ul>
      <p v-if="!build.reels.length" class="quiet">None said. What you have is used up first, the short ends before the long.</p>
      <form @submit.prevent="add">
        <label>
          Wire
          <select v-model="kind" class="field">
            <option value="">choose…</option>
            <option v-for="row in kinds" :key="row.name">{{ row.name }}</option>
          </select>
        </label>
        <label>Metres on it <input v-model="metres" class="field short" inputmode="decimal" /></label>
        <AButton html-type="submit" size="small">Add the reel</AButton>
        <p v-if="wrong" class="refusal" role="alert">{{ wrong }}</p>
      </form>
      <label>Cut to whole <input class="field short" type="number" min="1" max="100" :value="Math.round(build.policy.cut_to_m * 100)" @change="cutTo" /> cm</label>
    </aside>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  min-height: 0;
  flex: 1;
  gap: 10px;
  grid-template-columns: minmax(0, 1fr) 260px;
}

.cuts {
  padding: 6px 10px;
}

aside {
  align-self: start;
  padding: 8px 12px;
}

ul {
  margin: 4px 0;
  padding-left: 16px;
}

label {
  display: block;
  margin: 6px 0;
}

.short {
  width: 70px;
}

small {
  display: block;
  color: var(--quiet);
}

.which {
  white-space: nowrap;
}

/* on a phone the pieces have a line of their own under their reel */
@media (max-width: 600px) {
  .cuts :is(table, tbody) {
    display: block;
  }

  .cuts thead {
    display: none;
  }

  .cuts tr {
    display: grid;
    align-items: center;
    grid-template-columns: minmax(0, 1fr) auto auto auto;
  }

  .cuts tr > :is(th, td):not(:nth-child(3)) {
    border: 0;
  }

  .cuts tr > td:nth-child(3) {
    grid-column: 1 / -1;
    grid-row: 2;
  }

  .cuts tr > td:nth-child(4)::after {
    content: ' m left';
  }
}

@media (max-width: 900px) {
  .columns {
    display: block;
    overflow: auto;
  }
}
</style>
