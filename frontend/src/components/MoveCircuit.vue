<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { type BuildView, type Operation, Refused } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { byId } from '@/byId'

/** Circuits to another way, panel or ground, as one step; what it would do is said before. */
const props = defineProps<{ build: BuildView; circuits: string[] }>()
const emit = defineEmits<{ moved: [] }>()

const { edit, preview } = useEdits(useBuildId())
const panel = ref('')
const module = ref('')
const way = ref('')
const ground = ref('')
const anyKey = ref(false)
const says = ref('')
const refused = ref(false)

const panels = computed(() => props.build.parts.filter((part) => part.kind === 'panel'))
const modules = computed(() => props.build.parts.filter((part) => part.kind === 'module'))
/** Where circuits go: a panel, a module, the module beside their loads, or back to fuses and relays. */
const TO_FUSES = 'back'
const NEAREST = 'nearest'
const fed = computed<Operation[]>(() =>
  props.circuits.map((circuit) =>
    module.value === TO_FUSES
      ? { op: 'feed_by', circuit, by: 'fuses and relays' }
      : { op: 'feed_by', circuit, by: 'module channels', module: module.value === NEAREST ? null : module.value },
  ),
)
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
  props.circuits.map((id) => byId(props.build.circuits).get(id)?.name ?? id),
)
const named = computed(() =>
  names.value.length > 2 ? `${names.value.length} circuits` : names.value.join(' and '),
)
const wanted = computed(() => Boolean(panel.value || ground.value || module.value))
const label = computed(() => {
  const where = panels.value.find((part) => part.id === panel.value)?.name
  if (module.value === TO_FUSES) return `Put ${named.value} back on fuses and relays`
  if (module.value) {
    const one = modules.value.find((part) => part.id === module.value)
    return `Move ${named.value} to ${one ? one.name : 'the module beside it'}`
  }
  const to = where ?? grounds.value.find((part) => part.id === ground.value)?.name ?? ''
  return `Move ${named.value} to ${to}`
})
const operations = computed<Operation[]>(() =>
  module.value
    ? fed.value
    : props.circuits.map((circuit) => ({
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
  if (!wanted.value) return
  try {
    const answer = await preview('Look', operations.value, (changes) => {
      if (mine === asked) says.value = `${changes.length} things change · sizing them…`
    })
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
    panel.value = way.value = ground.value = module.value = ''
    emit('moved')
  })
}
</script>

<template>
  <form class="move" :aria-label="`Move ${names.join(', ')}`" @submit.prevent="move">
    <label>
      to panel
      <select v-model="panel" class="field" @change="way = module = ''">
        <option value="">stay</option>
        <option v-for="part in panels" :key="part.id" :value="part.id">{{ part.name }}</option>
      </select>
    </label>
    <label v-if="modules.length">
      to module
      <select v-model="module" class="field" @change="panel = ground = ''">
        <option value="">stay</option>
        <option :value="NEAREST">the one beside its loads</option>
        <option v-for="part in modules" :key="part.id" :value="part.id">{{ part.name }}</option>
        <option :value="TO_FUSES">back to fuses and relays</option>
      </select>
    </label>
    <label v-if="panel && circuits.length === 1">
      way
      <select v-model="way" class="field">
        <option value="">a free one</option>
        <option v-for="row in ways" :key="row.name" :value="row.name">{{ row.name }}, {{ row.bus }}</option>
      </select>
    </label>
    <label v-if="panel"><input v-model="anyKey" type="checkbox" /> its key position may change</label>
    <label>
      return to
      <select v-model="ground" class="field" @change="module = ''">
        <option value="">as now</option>
        <option v-for="part in grounds" :key="part.id" :value="part.id">{{ part.name }}</option>
      </select>
    </label>
    <AButton size="small" type="primary" html-type="submit" :disabled="refused || !wanted">
      {{ wanted ? label : 'Move' }}
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
}

[role='status'] {
  color: var(--quiet);
}

.trouble {
  color: var(--brick);
}
</style>
