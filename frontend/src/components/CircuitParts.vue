<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import type { BuildView, Results, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'

import CircuitWires from './CircuitWires.vue'
import ColourPolicy from './ColourPolicy.vue'
import MoveCircuit from './MoveCircuit.vue'
import PartsByHand from './PartsByHand.vue'

/** Every leg of a circuit, to be changed by hand: wires, parts, and where the whole of it sits. */
const props = defineProps<{ build: BuildView; circuit: Schemas['CircuitView']; results?: Results; lit?: string | null }>()
const emit = defineEmits<{ light: [owner: string | null]; went: [circuit: string] }>()

const { edit } = useEdits(useBuildId())
const others = computed(() => props.build.circuits.filter((row) => row.id !== props.circuit.id))
const into = ref('')

async function copy(): Promise<void> {
  await edit(`Copy ${props.circuit.name} to the other side`, [{ op: 'mirror_circuit', circuit: props.circuit.id }])
}

async function merge(): Promise<void> {
  const name = others.value.find((row) => row.id === into.value)?.name
  await edit(`Join ${props.circuit.name} to ${name}`, [{ op: 'merge_circuits', into: into.value, circuits: [props.circuit.id] }], () =>
    emit('went', into.value),
  )
}
</script>

<template>
  <CircuitWires :build="build" :circuit="circuit" :results="results" :lit="lit" @light="(owner) => emit('light', owner)" />
  <PartsByHand :build="build" :circuit="circuit" :lit="lit" @light="(owner) => emit('light', owner)" />
  <div class="by-hand">
    <h3>The whole circuit</h3>
    <MoveCircuit :build="build" :circuits="[circuit.id]" />
    <div class="line">
      <AButton size="small" @click="copy">Copy to the other side</AButton>
      <label>
        join it to
        <select v-model="into">
          <option value="" disabled>choose…</option>
          <option v-for="row in others" :key="row.id" :value="row.id">{{ row.name }}</option>
        </select>
      </label>
      <AButton size="small" :disabled="!into" @click="merge">Feed its loads from there</AButton>
    </div>

    <h3>Colours</h3>
    <ColourPolicy :build="build" />
  </div>
</template>

<style scoped src="@/by-hand.css"></style>
