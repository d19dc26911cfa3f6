<script setup lang="ts">
import { ref, watch } from 'vue'

/** A note that is saved when its field is left. */
const props = defineProps<{ of: string; text: string }>()
const emit = defineEmits<{ save: [text: string] }>()

const typed = ref(props.text)
watch(
  () => [props.of, props.text],
  ([of], [before, textBefore]) => {
    if (of !== before || typed.value === textBefore) typed.value = props.text
  },
)
</script>

<template>
  <label>
    <span>Note</span>
    <textarea v-model="typed" rows="4" maxlength="500" @blur="typed === text || emit('save', typed)"></textarea>
  </label>
</template>

<style scoped>
span {
  display: block;
  color: var(--quiet);
  font-family: var(--heading);
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
