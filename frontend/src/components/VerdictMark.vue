<script setup lang="ts">
import { computed } from 'vue'

const props = defineProps<{ verdict: string; count?: number }>()

const SIGNS: Record<string, string> = { stop: '■', look: '▲', note: '◆', fine: '●' }
const text = computed(() =>
  props.count === undefined ? props.verdict : `${props.count} ${props.verdict}`,
)
</script>

<template>
  <span class="mark" :class="verdict">
    <span aria-hidden="true">{{ SIGNS[verdict] }}</span> {{ text }}
  </span>
</template>

<style scoped>
.mark {
  display: inline-block;
  padding: 0 6px;
  border: 1px solid currentcolor;
  border-radius: 3px;
  font-family: var(--heading);
  font-size: 13.5px;
  font-weight: 600;
  line-height: 19px;
  white-space: nowrap;
}

.stop {
  color: var(--brick);
}

.look {
  color: var(--ochre);
}

.note {
  color: var(--quiet);
}

.fine {
  border-color: transparent;
  color: var(--moss);
}
</style>
