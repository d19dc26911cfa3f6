<script setup lang="ts">
import { ref, watch } from 'vue'

/** A field whose text is its own while somebody is at it, however often what is around it changes. */
const props = defineProps<{ value: string | number }>()
const emit = defineEmits<{ put: [text: string, field: HTMLInputElement] }>()

const text = ref(String(props.value))
const busy = ref(false)
watch(
  () => props.value,
  (value) => {
    if (!busy.value) text.value = String(value)
  },
)

function put(event: Event): void {
  const field = event.target as HTMLInputElement
  busy.value = false
  emit('put', field.value, field)
  text.value = field.value
}

function left(): void {
  busy.value = false
  text.value = String(props.value)
}
</script>

<template>
  <input v-model="text" @input="busy = true" @change="put" @blur="busy && left()" />
</template>
