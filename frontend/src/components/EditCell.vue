<script setup lang="ts">
import { nextTick, ref, useId } from 'vue'

/**
 * A table cell that shows text and becomes a field or a list on Enter or click.
 * `save` answers whether it was saved; until then the field keeps what was typed.
 */
const props = defineProps<{
  text: string
  label: string
  options?: { value: string; label: string }[]
  value?: string
  note?: string
  /** What typing completes to, in a field that takes any text. */
  suggest?: string[]
  /** Shown in quiet ink while the cell is empty. */
  placeholder?: string
  save: (value: string, done: () => void) => Promise<boolean>
}>()

const listId = `suggest-${useId()}`
const editing = ref(false)
const busy = ref(false)
let byArrows = false
const typed = ref('')
const field = ref<HTMLInputElement | HTMLSelectElement>()
const shown = ref<HTMLButtonElement>()

async function begin(): Promise<void> {
  typed.value = props.value ?? props.text
  byArrows = false
  editing.value = true
  await nextTick()
  field.value?.focus()
  if (field.value instanceof HTMLInputElement) field.value.select()
}

/** The focus stays in this cell, unless it has gone on to another while this one was being saved. */
async function end(): Promise<void> {
  const isHere = [field.value, document.body].includes(document.activeElement as HTMLElement)
  editing.value = false
  await nextTick()
  if (isHere) shown.value?.focus()
}

/** A choice made with the pointer is final; with the arrow keys Enter or leaving makes it so. */
function chosen(): void {
  if (!byArrows) void commit()
}

async function commit(): Promise<void> {
  if (!editing.value || busy.value) return
  if (typed.value === (props.value ?? props.text)) return end()
  busy.value = true
  try {
    await props.save(typed.value, () => void end())
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <select
    v-if="editing && options"
    ref="field"
    v-model="typed"
    :aria-label="label"
    :disabled="busy"
    @change="chosen"
    @keydown="byArrows ||= $event.key.startsWith('Arrow')"
    @keydown.enter="commit"
    @keydown.esc.stop="end"
    @blur="commit"
  >
    <option v-for="option in options" :key="option.value" :value="option.value">
      {{ option.label }}
    </option>
  </select>
  <span v-else-if="editing">
    <input
      ref="field"
      v-model="typed"
      :aria-label="label"
      :readonly="busy"
      :list="suggest ? listId : undefined"
      autocomplete="off"
      @keydown.enter="commit"
      @keydown.esc.stop="end"
      @blur="commit"
    />
    <datalist v-if="suggest" :id="listId">
      <option v-for="one in suggest" :key="one" :value="one"></option>
    </datalist>
  </span>
  <button
    v-else
    ref="shown"
    type="button"
    :title="note"
    :aria-label="`${text || 'empty'}, ${label}`"
    @click="begin"
  >
    <template v-if="text">{{ text }}</template>
    <span v-else class="quiet">{{ placeholder || '–' }}</span>
  </button>
</template>

<style scoped>
button,
input,
select {
  width: 100%;
  min-height: 24px;
  padding: 1px 5px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: transparent;
  color: inherit;
  font: inherit;
  text-align: inherit;
}

button {
  overflow: hidden;
  cursor: text;
  text-overflow: ellipsis;
  white-space: nowrap;
}

button:hover {
  border-color: var(--copper);
}

input,
select {
  border-color: var(--copper);
  background: var(--sheet);
}
</style>
