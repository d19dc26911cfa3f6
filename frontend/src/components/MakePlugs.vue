<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { current, fixed } from '@/format'

/** Each plug, module, box and panel as seen from where the wires go in, cavity by cavity. */
const props = defineProps<{ make: Schemas['MakeView'] }>()
const LEAST_SHOWN_A = 0.01
const chosen = ref('')

const name = (face: Schemas['Face']) => `${face.name}${face.half ? `, half ${face.half}` : ''}`
const faces = computed(() => props.make.workshop.faces)
/** What the solver finds asked of a pin. */
const asked = (cavity: Schemas['Cavity']) => (cavity.asked_a >= LEAST_SHOWN_A ? `; ${current(cavity.asked_a)} asked` : '')

const shown = computed(() => (chosen.value ? faces.value.filter((face) => name(face) === chosen.value) : faces.value))
</script>

<template>
  <p class="no-print list-bar">
    <label>
      Show
      <select v-model="chosen" class="field">
        <option value="">all of them</option>
        <option v-for="face in faces" :key="name(face)">{{ name(face) }}</option>
      </select>
    </label>
    <span class="quiet">As seen from where the wires go in; the other half of a plug is its mirror image. The maker’s drawing says how rows really lie.</span>
  </p>
  <div class="faces">
    <section v-for="face in shown" :key="name(face)" class="sheet" :aria-label="name(face)">
      <h2>{{ name(face) }}</h2>
      <p class="quiet">
        {{ [face.place, face.contact, face.sealed ? 'sealed' : '', face.free ? `${face.free} free` : 'none free'].filter(Boolean).join(' · ') }}
      </p>
      <p v-if="face.keyed_like.length" class="look">
        ▲ {{ face.keyed_like.join(', ') }} at the same place {{ face.keyed_like.length > 1 ? 'fit' : 'fits' }} it as well: plug an unlike cavity in each, so that they cannot be swapped, and say which in its parts.
      </p>
      <div class="face">
        <div v-for="(row, n) in face.rows" :key="n" class="row" :class="{ plug: face.half }">
          <div v-for="cavity in row" :key="cavity.name" class="cavity" :class="{ free: !cavity.wires.length }">
            <b>{{ cavity.name }}</b>
            <span v-for="label in cavity.labels" :key="label">{{ label }}</span>
            <small>{{ cavity.function || (cavity.keys ? 'keying plug' : cavity.blind ? 'blind plug' : 'free') }}</small>
            <small v-if="cavity.can" class="can">{{ cavity.can }}{{ asked(cavity) }}</small>
            <small v-if="cavity.contact">{{ cavity.contact }}</small>
            <small v-if="cavity.tail">joined {{ fixed(cavity.tail.length_m * 1000, 0) }} mm before it, tail {{ cavity.tail.size }} {{ cavity.tail.letters }}</small>
          </div>
        </div>
      </div>
    </section>
  </div>
  <p v-if="!faces.length" class="empty">No plug, module or box with wires yet.</p>
</template>

<style scoped>

.faces {
  display: flex;
  min-height: 0;
  flex: 1;
  flex-direction: column;
  gap: 10px;
  overflow: auto;
}

section {
  flex: none;
  padding: 8px 12px;
}

section p {
  margin: 2px 0 6px;
}

.look {
  color: var(--ochre);
}

.face {
  overflow-x: auto;
}

.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin-bottom: 4px;
}

.row.plug {
  flex-wrap: nowrap;
}

.cavity {
  display: flex;
  min-width: 104px;
  max-width: 150px;
  flex: 1;
  flex-direction: column;
  padding: 4px 6px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  font-size: 13px;
}

.cavity b {
  font-family: var(--heading);
  font-size: 15px;
}

.cavity.free {
  border-style: dashed;
  color: var(--quiet);
}

small {
  color: var(--quiet);
}

@media print {
  .faces {
    overflow: visible;
  }

  section {
    break-inside: avoid;
  }
}
</style>
