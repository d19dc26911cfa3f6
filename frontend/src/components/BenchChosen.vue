<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { byId } from '@/byId'
import { amps, fixed, volts } from '@/format'
import { useLive } from '@/stores/live'

/** What is chosen on the plan: what it does now, its terminals for the probes, its wires for the clamp. */
const props = defineProps<{ build: BuildView; part: Schemas['PartView']; active: { meter: string; probe: 'red' | 'black' } }>()
const emit = defineEmits<{ pick: [terminal: string]; across: []; clamp: [wire: string]; close: [] }>()

const live = useLive()
const n = computed(() => live.loadAt.get(props.part.id))
const isOut = computed(() => live.calm?.pulled.includes(props.part.id) ?? false)
const canPull = computed(() => ['load', 'relay', 'fuse', 'connector', 'flasher'].includes(props.part.kind))
/** Where its wires really land: on it, or on the pins of the unit that it sits in. */
const lands = computed(() => props.part.housed?.unit ?? props.part.id)
const terminals = computed(() => {
  const unit = byId(props.build.parts).get(lands.value)
  const pins = props.part.housed ? Object.values(props.part.housed.pins) : unit?.terminals
  return (pins ?? []).slice(0, 30)
})
const wires = computed(() =>
  props.build.wires
    .filter((wire) => [wire.from_terminal, wire.to_terminal].some((end) => terminals.value.some((name) => end === `${lands.value}.${name}`)))
    .slice(0, 16),
)
const wireAmps = (wire: string) => live.calm?.wire_a[live.wireAt.get(wire) ?? -1]
const wireC = (wire: string) => live.calm?.wire_c[live.wireAt.get(wire) ?? -1]
</script>

<template>
  <aside class="sheet chosen" :aria-label="part.name">
    <header>
      <h3>{{ part.name }}</h3>
      <button class="plain" aria-label="Close" @click="emit('close')">✕</button>
    </header>
    <p v-if="part.kind === 'load' && n !== undefined && live.calm">
      {{ volts(live.calm.load_v[n]) }} across it, {{ amps(Math.abs(live.calm.load_a[n] ?? 0)) }},
      {{ live.doing(part) }}
    </p>
    <p class="acts">
      <button v-if="part.kind === 'load'" class="act" @click="emit('across')">Voltmeter across it</button>
      <button v-if="canPull && !isOut" class="act" @click="live.do({ do: 'pull', of: part.id })">Take it out</button>
      <button v-if="isOut" class="act" @click="live.do({ do: 'fit', of: part.id })">Put it back</button>
    </p>
    <p v-if="terminals.length" class="ends">
      <span class="quiet">{{ active.probe }} probe of meter {{ active.meter }} on:</span>
      <button v-for="name in terminals" :key="name" class="end" @click="emit('pick', `${lands}.${name}`)">{{ name }}</button>
    </p>
    <p v-if="wires.length" class="ends">
      <span class="quiet">clamp round:</span>
      <button v-for="wire in wires" :key="wire.id" class="end" :title="`${fixed(wireC(wire.id), 0)} °C`" @click="emit('clamp', wire.id)">{{ wire.label }} {{ amps(Math.abs(wireAmps(wire.id) ?? 0)) }}</button>
    </p>
  </aside>
</template>

<style scoped>
.chosen {
  padding: 6px 10px;
  margin-bottom: 8px;
  border-color: var(--copper);
}

@media (max-width: 1000px) {
  .chosen {
    position: fixed;
    z-index: 8;
    right: 10px;
    bottom: 10px;
    left: 10px;
    overflow-y: auto;
    max-height: 45vh;
    margin: 0;
  }
}

header {
  display: flex;
  justify-content: space-between;
}

p {
  margin: 2px 0 4px;
}

.ends,
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
}

.end,
.act {
  padding: 2px 8px;
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: transparent;
  color: var(--ink);
  cursor: pointer;
  font: inherit;
}

.act {
  border-color: var(--copper);
  color: var(--copper);
}

@media (pointer: coarse) {
  .end,
  .act {
    min-height: 44px;
  }
}
</style>
