<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { type BuildView, type Operation, Refused } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'

/** Circuits to another way, panel or ground, as one step; what it would do is said before. */
const props = defineProps<{ build: BuildView; circuits: string[] }>()
const emit = defineEmits<{ moved: [] }>()

const { edit, preview } = useEdits(useBuildId())
const panel = ref('')
const way = ref('')
const ground = ref('')
const anyKey = ref(false)
const says = ref('')
const refused = ref(false)

const panels = computed(() => props.build.parts.filter((part) => part.kind === 'panel'))
const ways = computed(() => {
  const taken = new Set(
    props.build.parts.filter((part) => part.fitted?.panel === panel.value).map((part) => part.fitted!.way),
  )
  const rows = panels.value.find((part) => part.id === panel.value)?.ways ?? []
  return rows.filter((row) => !taken.has(row.name))
})
const grounds = computed(() =>
  props.build.parts.filter((part) => part.kind === 'ground point' || part.kind === 'bus bar'),
)
const names = computed(() =>
  props.circuits.map((id) => props.build.circuits.find((row) => row.id === id)?.name ?? id),
)
const label = computed(() => {
  const where = panels.value.find((part) => part.id === panel.value)?.name
  const to = where ?? grounds.value.find((part) => part.id === ground.value)?.name ?? ''
  return `Move ${names.value.length > 2 ? `${names.value.length} circuits` : names.value.join(' and ')} to ${to}`
})
const operations = computed<Operation[]>(() =>
  props.circuits.map((circuit) => ({
    op: 'move_circuit',
    circuit,
    panel: panel.value || null,
    way: props.circuits.length === 1 ? way.value || null : null,
    ground: ground.value || null,
    any_key: anyKey.value,
  })),
)

let asked = 0
watch([operations], () => void look())

async function look(): Promise<void> {
  const mine = ++asked
  says.value = ''
  refused.value = false
  if (!panel.value && !ground.value) return
  try {
    const answer = await preview('Look', operations.value)
    if (mine !== asked) return
    const stop = answer.results.findings.filter((row) => row.severity === 'stop').length
    const fuses = answer.changes.filter((row) => row.after && row.after.kind === 'fuse')
    says.value =
      fuses.map((row) => `${row.after!.name}: ${answer.results.fuses[row.id]?.rating_a ?? '–'} A`).join(' · ') ||
      `${answer.changes.length} things change`
    says.value += stop ? ` · ${stop} to stop for in the car` : ' · nothing to stop for'
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    if (mine !== asked) return
    refused.value = true
    says.value = problem.message
  }
}

async function move(): Promise<void> {
  await edit(label.value, operations.value, () => {
    panel.value = way.value = ground.value = ''
    emit('moved')
  })
}
</script>

<template>
  <form class="move" :aria-label="`Move ${names.join(', ')}`" @submit.prevent="move">
    <label>
      to panel
      <select v-model="panel" @change="way = ''">
        <option value="">stay</option>
        <option v-for="part in panels" :key="part.id" :value="part.id">{{ part.name }}</option>
      </select>
    </label>
    <label v-if="panel && circuits.length === 1">
      way
      <select v-model="way">
        <option value="">a free one</option>
        <option v-for="row in ways" :key="row.name" :value="row.name">{{ row.name }}, {{ row.bus }}</option>
      </select>
    </label>
    <label v-if="panel"><input v-model="anyKey" type="checkbox" /> its key position may change</label>
    <label>
      return to
      <select v-model="ground">
        <option value="">as now</option>
        <option v-for="part in grounds" :key="part.id" :value="part.id">{{ part.name }}</option>
      </select>
    </label>
    <AButton size="small" type="primary" html-type="submit" :disabled="refused || (!panel && !ground)">
      {{ panel || ground ? label : 'Move' }}
    </AButton>
    <span role="status" :class="{ trouble: refused }">{{ says }}</span>
  </form>
</template>

<style scoped>
.move {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
}

select {
  max-width: 170px;
  height: 26px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

[role='status'] {
  color: var(--quiet);
}

.trouble {
  color: var(--brick);
}
</style>
