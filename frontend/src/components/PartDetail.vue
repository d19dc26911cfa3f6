<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { usePartsCatalogue } from '@/colours'

import ContactGrid from './ContactGrid.vue'
import PointGrid from './PointGrid.vue'

/** What is inside a part: its contacts or points as a grid, and its figures. */
const props = defineProps<{ build: BuildView; part: Schemas['PartView'] }>()

const { edit } = useEdits(useBuildId())
const { data: catalogue } = usePartsCatalogue()

const figures = computed(() => catalogue.value?.figures[props.part.figures_as] ?? [])

const hint = computed(() => {
  if (props.part.kind === 'fuse') return 'empty: Oilstone chooses'
  return figures.value.some((figure) => figure.usual !== null) ? 'grey: typical, while you say nothing' : ''
})

/** A figure typed anew; what is refused is put back. */
async function setFigure(figure: Schemas['FigureView'], event: Event): Promise<void> {
  const field = event.target as HTMLInputElement
  const label = `${props.part.name}: ${figure.said} ${field.value.trim() || 'as usual'}`
  const done = await edit(label, [{ op: 'set_figures', part: props.part.id, cells: { [figure.name]: field.value } }])
  if (!done) field.value = String(props.part.figures[figure.name] ?? '')
}
</script>

<template>
  <div class="detail">
    <p v-if="figures.length" class="figures">
      <label v-for="figure in figures" :key="figure.name">
        {{ figure.said }}
        <input
          inputmode="decimal"
          :aria-label="`${part.name}, ${figure.said}`"
          :placeholder="figure.usual === null ? (part.kind === 'fuse' ? 'chosen' : 'not said') : `${figure.usual}`"
          :value="part.figures[figure.name] ?? ''"
          @change="setFigure(figure, $event)"
        />
        {{ figure.unit }}
      </label>
      <span v-if="hint" class="quiet">{{ hint }}</span>
    </p>
    <ContactGrid
      v-if="part.contacts"
      :part="part"
      @save="(contacts) => edit(`Contacts of ${part.name}`, [{ op: 'change', collection: 'parts', id: part.id, fields: { contacts } }])"
    />
    <PointGrid
      v-else-if="part.pins.length || part.ways.length"
      :build="build"
      :part="part"
      @save="(points, label) => edit(label, [{ op: 'set_points', part: part.id, points }])"
    />
  </div>
</template>

<style scoped src="@/inside.css"></style>

<style scoped>
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: center;
  padding: 4px 10px 0;
  margin: 0;
}

.figures input {
  width: 74px;
  text-align: right;
}
</style>
