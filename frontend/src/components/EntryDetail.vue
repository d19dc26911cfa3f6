<script setup lang="ts">
import { ref, watch } from 'vue'

import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { change } from '@/looms'

import PhotoStrip from './PhotoStrip.vue'

/** The note and the photos of one entry, beside its list. */
const props = defineProps<{ collection: string; identity: string; name: string; text: string }>()
const emit = defineEmits<{ close: [] }>()

const id = useBuildId()
const { edit } = useEdits(id)
const note = ref(props.text)

watch(
  () => props.identity,
  () => (note.value = props.text),
)

function save(): void {
  if (note.value === props.text) return
  void edit(`Note on ${props.name}`, [change(props.collection, props.identity, { note: note.value })])
}
</script>

<template>
  <aside :aria-label="`More of ${name}`" @keydown.esc="emit('close')">
    <header>
      <h2>{{ name }}</h2>
      <button type="button" aria-label="Close" @click="emit('close')">✕</button>
    </header>
    <label>
      <span class="quiet">Note</span>
      <textarea v-model="note" rows="4" maxlength="500" @blur="save"></textarea>
    </label>
    <h3>Photos</h3>
    <PhotoStrip :collection="collection" :identity="identity" />
  </aside>
</template>

<style scoped>
aside {
  width: 290px;
  flex: none;
  overflow-y: auto;
  padding: 10px 12px;
  border-left: 1px solid var(--rule);
}

header {
  display: flex;
  justify-content: space-between;
}

header button {
  border: 0;
  background: none;
  color: var(--ink);
  cursor: pointer;
}

h3 {
  margin: 12px 0 6px;
}

textarea {
  width: 100%;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}
</style>
