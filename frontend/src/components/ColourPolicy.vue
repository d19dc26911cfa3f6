<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { reactive, watch } from 'vue'

import type { BuildView } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { lettersOf, usePartsCatalogue } from '@/colours'

/** How the wires of the whole car are told apart: the policy, its palette, and painting them so. */
const props = defineProps<{ build: BuildView }>()
const { edit } = useEdits(useBuildId())
const { data: catalogue } = usePartsCatalogue()

const draft = reactive<{ colours: string; palette: Record<string, string> }>({ colours: '', palette: {} })
watch(
  () => props.build.policy,
  (policy) => Object.assign(draft, { colours: policy.colours, palette: { ...policy.palette } }),
  { immediate: true },
)

const SAID: Record<string, string> = {
  'by function': 'a colour for each function, circuits told apart by a tracer',
  'one colour': 'one colour everywhere, told apart by their printed labels',
  'by stage': 'the colour of the tape of each stage',
}

function shown(role: string): boolean {
  return draft.colours === 'by function' ? role !== 'one colour' : role === 'one colour' && draft.colours === role
}

async function paint(): Promise<void> {
  const palette = Object.fromEntries(Object.entries(draft.palette).filter(([, colour]) => colour.trim()))
  const fields = { policy: { colours: draft.colours, palette } }
  await edit(`Colour every wire ${draft.colours}`, [
    { op: 'change', collection: 'build', id: 'build', fields },
    { op: 'recolour' },
  ])
}
</script>

<template>
  <form class="policy" aria-label="Colours of the whole car" @submit.prevent="paint">
    <label>
      wires of the whole car
      <select v-model="draft.colours">
        <option v-for="policy in catalogue?.colour_policies" :key="policy" :value="policy">{{ policy }}</option>
      </select>
    </label>
    <span class="quiet">{{ SAID[draft.colours] }}</span>
    <template v-for="(usual, role) in catalogue?.palette" :key="role">
      <label v-if="shown(String(role))">
        {{ role }}
        <input v-model="draft.palette[role]" list="all-colours" :placeholder="`${usual} ${lettersOf(usual)}`" />
      </label>
    </template>
    <AButton size="small" html-type="submit">Colour every wire so</AButton>
  </form>
</template>

<style scoped>
.policy {
  display: flex;
  flex-wrap: wrap;
  gap: 5px 10px;
  align-items: center;
}

input,
select {
  width: 104px;
  height: 25px;
  padding: 0 5px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
</style>
