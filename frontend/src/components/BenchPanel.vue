<script setup lang="ts">
import { computed, ref } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { byId } from '@/byId'
import { fixed } from '@/format'
import { useLive } from '@/stores/live'

/** Panels as they look from the front: fuses, relays and channels, that can be pulled, fitted and reset. */
const props = defineProps<{ build: BuildView; results: Schemas['Results'] | undefined }>()
const emit = defineEmits<{ choose: [part: string] }>()

type Part = Schemas['PartView']
const WARM = 0.3

const live = useLive()
const now = computed(() => live.calm)
const chosen = ref<string | null>(null)

const fuses = computed(() => props.build.parts.filter((part) => part.kind === 'fuse'))
const panels = computed(() => {
  const rows = props.build.parts.filter((part) => part.kind === 'panel')
  const fitted = new Set(rows.map((panel) => panel.id))
  const loose = fuses.value.filter((fuse) => !fuse.fitted || !fitted.has(fuse.fitted.panel))
  return [
    ...rows.map((panel) => ({ id: panel.id, name: panel.name, fuses: fuses.value.filter((fuse) => fuse.fitted?.panel === panel.id) })),
    { id: 'in line', name: 'In line', fuses: loose },
  ].filter((row) => row.fuses.length > 0)
})
const relays = computed(() => props.build.parts.filter((part) => part.kind === 'relay' && !part.housed))
/** Fuses by their panels, and relays: what can be pulled from the front. */
const rows = computed(() =>
  [
    ...panels.value.map((panel) => ({ id: panel.id, name: panel.name, parts: panel.fuses })),
    { id: 'relays', name: 'Relays', parts: relays.value },
  ].filter((row) => row.parts.length > 0),
)
const modules = computed(() => props.build.parts.filter((part) => part.kind === 'module'))

const usedOf = (fuse: string) => now.value?.fuse_used[live.session?.fuses.indexOf(fuse) ?? -1] ?? 0
const isOut = (id: string) => now.value?.pulled.includes(id) ?? false
const isBlown = (id: string) => now.value?.parted.includes(id) || live.session?.faults.some((fault) => fault.id === `blown fuse: ${id}`)
const isIn = (id: string) => now.value?.pulled_in.includes(id) ?? false
const hasTripped = (module: string, way: string) => now.value?.tripped.includes(`${module}.${way}`) ?? false
const rating = (fuse: Part) => props.results?.fuses[fuse.id]?.rating_a

function state(part: Part): string {
  if (isOut(part.id)) return 'pulled'
  if (part.kind === 'fuse' && isBlown(part.id)) return part.catalogue?.startsWith('breaker') ? 'tripped' : 'blown'
  if (part.kind === 'relay') return isIn(part.id) ? 'pulled in' : 'at rest'
  return usedOf(part.id) > 0.01 ? `${fixed(100 * usedOf(part.id), 0)} % melted` : 'whole'
}

const open = computed(() => byId(props.build.parts).get(chosen.value))
function pull(part: Part): void {
  void live.do({ do: 'pull', of: part.id })
}
function fit(part: Part): void {
  void live.do({ do: 'fit', of: part.id })
}
function reset(part: Part): void {
  void live.do({ do: 'reset', of: part.id })
}
function choose(part: Part): void {
  chosen.value = chosen.value === part.id ? null : part.id
  emit('choose', part.id)
}
/** What a fuse or relay is called on the panel: its number, else its name. */
const short = (part: Part) => /^[A-Z]\d+/.exec(part.name)?.[0] ?? part.name.replace(/ (fuse|breaker|relay)$/i, '')
const said = (part: Part) =>
  part.kind === 'fuse' ? `${part.name}, ${rating(part) ?? '–'} A: ${state(part)}` : `${part.name}: ${state(part)}`
</script>

<template>
  <section class="panels" aria-label="Panels">
    <div v-for="row in rows" :key="row.id">
      <h3>{{ row.name }}</h3>
      <div class="ways">
        <button
          v-for="part in row.parts"
          :key="part.id"
          class="way"
          :class="{ out: isOut(part.id), blown: isBlown(part.id), warm: usedOf(part.id) > WARM, in: isIn(part.id), chosen: chosen === part.id }"
          :title="said(part)"
          :aria-label="said(part)"
          :aria-pressed="chosen === part.id"
          @click="choose(part)"
        >
          {{ short(part) }}<b v-if="part.kind === 'fuse'">&#160;{{ rating(part) ?? '' }}</b>
        </button>
      </div>
    </div>
    <div v-for="module in modules" :key="module.id">
      <h3>{{ module.name }} <span class="quiet">{{ now?.awake.includes(module.id) ? 'awake' : 'asleep' }}</span></h3>
      <div class="ways">
        <span v-for="way in module.ways.filter((row) => row.when)" :key="way.name" class="channel" :class="{ tripped: hasTripped(module.id, way.name) }" :title="`${way.name}: ${hasTripped(module.id, way.name) ? 'tripped' : 'not tripped'}`">
          {{ way.name }}{{ hasTripped(module.id, way.name) ? ' tripped' : '' }}
        </span>
        <button v-if="now?.tripped.some((row) => row.startsWith(`${module.id}.`))" class="plain" @click="reset(module)">Reset</button>
      </div>
    </div>
    <p v-if="open" class="open" role="status">
      <b>{{ open.name }}</b> {{ state(open) }}.
      <button v-if="isOut(open.id) || isBlown(open.id)" class="act" @click="fit(open)">{{ isOut(open.id) ? 'Fit' : 'Fit a new' }} {{ open.name }}</button>
      <button v-if="!isOut(open.id)" class="act" @click="pull(open)">Pull {{ open.name }}</button>
      <button v-if="isBlown(open.id) && open.catalogue?.startsWith('breaker')" class="act" @click="reset(open)">Reset {{ open.name }}</button>
    </p>
  </section>
</template>

<style scoped>
h3 {
  margin: 8px 0 4px;
  color: var(--quiet);
}

.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}

.way,
.channel {
  min-width: 52px;
  min-height: 30px;
  padding: 2px 6px;
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  cursor: pointer;
  font-family: var(--heading);
  font-size: 14px;
  text-align: center;
}

.channel {
  min-width: 0;
  min-height: 24px;
  cursor: default;
  font-size: 13px;
}

.way.blown {
  border-color: var(--brick);
  border-width: 2px;
  color: var(--brick);
  text-decoration: line-through;
}

.way.out {
  border-style: dashed;
  background: none;
  color: var(--quiet);
}

.way.warm {
  border-color: var(--amber);
  box-shadow: inset 0 -4px 0 var(--amber);
}

.way.in {
  border-color: var(--amber);
  background: color-mix(in srgb, var(--amber) 22%, var(--sheet));
}

.channel.tripped {
  border-color: var(--brick);
  color: var(--brick);
}

.chosen {
  outline: 2px solid var(--copper);
}

.open {
  margin: 8px 0 0;
}

.act {
  margin: 2px 4px 2px 0;
  padding: 3px 10px;
  border: 1px solid var(--copper);
  border-radius: 3px;
  background: transparent;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
}

@media (pointer: coarse) {
  .way {
    min-height: 44px;
  }
}
</style>
