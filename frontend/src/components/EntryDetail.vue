<script setup lang="ts">
import type { Collection } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { change } from '@/looms'

import NoteField from './NoteField.vue'
import PhotoStrip from './PhotoStrip.vue'
import SideSheet from './SideSheet.vue'

/** The note and the photos of one entry, beside its list. */
const props = defineProps<{ collection: Collection; identity: string; name: string; text: string }>()
const emit = defineEmits<{ close: [] }>()

const id = useBuildId()
const { edit } = useEdits(id)

function save(note: string): void {
  void edit(`Note on ${props.name}`, [change(props.collection, props.identity, { note })])
}
</script>

<template>
  <SideSheet :name="name" :label="`More of ${name}`" @close="emit('close')">
    <NoteField :of="identity" :text="text" @save="save" />
    <h3>Photos</h3>
    <PhotoStrip :collection="collection" :identity="identity" />
  </SideSheet>
</template>
