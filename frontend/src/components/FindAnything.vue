<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import type { Schemas } from '@/api/client'
import { useBuildId, useSearch } from '@/api/queries'

/** Finds any wire, label, part, terminal, circuit or place of the build, and goes there. */
const open = defineModel<boolean>('open', { required: true })

const id = useBuildId()
const router = useRouter()
const typed = ref('')
const text = ref('')
const at = ref(0)
const field = ref<HTMLInputElement>()
const { data: found } = useSearch(id, text)

const rows = computed(() => (text.value.trim() ? (found.value ?? []) : []))
let timer: ReturnType<typeof setTimeout> | undefined
watch(typed, (value) => {
  clearTimeout(timer)
  timer = setTimeout(() => (text.value = value), 120)
})
watch(rows, () => (at.value = 0))
watch(open, async (now) => {
  if (!now) return
  await nextTick()
  field.value?.select()
})

function go(row: Schemas['FoundView'] | undefined): void {
  if (!row) return
  open.value = false
  const params = { id: id.value }
  if (row.kind === 'place' || row.kind === 'run') void router.push({ name: 'lay-out', params })
  else if (row.circuit) {
    const light = row.kind === 'circuit' ? {} : { light: row.id }
    void router.push({ name: 'circuits', params: { ...params, circuit: row.circuit }, query: light })
  } else if (['panel', 'stud', 'bus bar', 'battery', 'ground point', 'fuse'].some((kind) => row.detail.startsWith(kind))) {
    void router.push({ name: 'feeds', params })
  } else void router.push({ name: 'stock', params })
}

function move(step: number): void {
  at.value = Math.min(Math.max(at.value + step, 0), Math.max(rows.value.length - 1, 0))
}
</script>

<template>
  <div v-if="open" class="shade" @click.self="open = false">
    <div class="find" role="dialog" aria-label="Find" @keydown.esc="open = false">
      <input
        ref="field"
        v-model="typed"
        role="combobox"
        aria-label="Find a wire, label, part, terminal, circuit or place"
        aria-controls="found"
        :aria-expanded="rows.length > 0"
        :aria-activedescendant="rows.length ? `found-${at}` : undefined"
        placeholder="Find: W12, horn relay, fan-relay.87, rear left…"
        autocomplete="off"
        @keydown.down.prevent="move(1)"
        @keydown.up.prevent="move(-1)"
        @keydown.enter.prevent="go(rows[at])"
      />
      <ul id="found" role="listbox" aria-label="Found">
        <li
          v-for="(row, index) in rows"
          :id="`found-${index}`"
          :key="row.kind + row.id + row.title"
          role="option"
          :aria-selected="index === at"
          @pointerenter="at = index"
          @click="go(row)"
        >
          <span class="kind">{{ row.kind }}</span> <b>{{ row.title }}</b> <span class="quiet">{{ row.detail }}</span>
        </li>
      </ul>
      <p v-if="text.trim() && !rows.length" class="quiet none">Nothing here is called that. Try fewer letters.</p>
    </div>
  </div>
</template>

<style scoped>
.shade {
  position: fixed;
  z-index: 50;
  inset: 0;
  background: rgb(0 0 0 / 25%);
}

.find {
  width: min(620px, 92vw);
  padding: 10px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  margin: 70px auto 0;
  background: var(--sheet);
  box-shadow: 0 8px 30px rgb(0 0 0 / 25%);
}

input {
  width: 100%;
  height: 34px;
  padding: 0 8px;
  border: 1px solid var(--quiet);
  border-radius: 3px;
  background: var(--paper);
  color: var(--ink);
  font: inherit;
  font-size: 16px;
}

ul {
  overflow-y: auto;
  max-height: 420px;
  padding: 0;
  margin: 8px 0 0;
  list-style: none;
}

li {
  overflow: hidden;
  padding: 3px 6px;
  cursor: pointer;
  text-overflow: ellipsis;
  white-space: nowrap;
}

li[aria-selected='true'] {
  background: var(--copper-wash);
  box-shadow: inset 3px 0 var(--copper);
}

.kind {
  display: inline-block;
  width: 62px;
  color: var(--quiet);
}

.none {
  padding: 8px 6px 2px;
  margin: 0;
}
</style>
