<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { amps, fixed, listed } from '@/format'

import VerdictMark from './VerdictMark.vue'

/** What a change asks of an evening on a car that is finished: what is made, made again, fitted, and proved again. */
const props = defineProps<{ view: Schemas['WhatItTakes']; called: string }>()
const emit = defineEmits<{ keep: [] }>()
const took = computed(() => props.view.evening)

const MOST = 12
const some = (rows: string[]) => listed(rows, MOST)
const days = (figure: number | null | undefined) => (figure == null ? 'without end' : `${fixed(figure, 0)} days`)
const print = () => window.print()
</script>

<template>
  <section class="sheet evening" aria-label="What the evening takes" role="status">
    <h3>{{ called }}: what the evening takes</h3>
    <p class="quiet">Battery negative off first. About {{ took.minutes }} minutes beside the work on the car itself; typical.</p>
    <dl>
      <template v-if="took.wires.length">
        <dt>To make</dt>
        <dd>{{ took.wires.length }} {{ took.wires.length === 1 ? 'wire' : 'wires' }}, {{ fixed(took.metres, 1) }} m: {{ some(took.wires) }}</dd>
      </template>
      <template v-if="took.again.length">
        <dt class="look">▲ To make again</dt>
        <dd>{{ some(took.again) }}</dd>
      </template>
      <template v-if="took.fuses.length">
        <dt class="look">▲ Fuses</dt>
        <dd>{{ some(took.fuses) }}</dd>
      </template>
      <template v-if="view.pins.length">
        <dt>Or leave them</dt>
        <dd>
          What is in the car stays as it is{{ view.brought.length ? `, and this is found then: ${some(view.brought)}.` : ', and nothing more is found then.' }}
          <AButton class="no-print" size="small" @click="emit('keep')">Write it and leave them</AButton>
        </dd>
      </template>
      <template v-if="took.parts.length">
        <dt>To fit</dt>
        <dd>{{ some(took.parts) }}</dd>
      </template>
      <template v-for="row in took.room" :key="row.name">
        <dt>{{ row.name }}</dt>
        <dd>{{ row.taken.join(', ') }} taken, {{ row.free || 'none' }} free then</dd>
      </template>
      <template v-for="row in took.draws" :key="row.name">
        <dt>{{ row.name }}</dt>
        <dd><VerdictMark :verdict="row.verdict" /> draws {{ amps(row.after_a) }}, {{ amps(row.before_a) }} before. {{ row.says }}</dd>
      </template>
      <template v-if="days(took.parked_days_before) !== days(took.parked_days_after)">
        <dt>Parked</dt>
        <dd>starts after {{ days(took.parked_days_after) }}, {{ days(took.parked_days_before) }} before</dd>
      </template>
      <dt>To prove again</dt>
      <dd>
        {{ view.again.length ? `${view.again.length} of ${view.proved} that stand: ${some(view.again)}` : view.proved ? `none of the ${view.proved} that stand` : 'nothing is proved yet' }}; and the new function itself, in Power up.
      </dd>
    </dl>
    <button type="button" class="plain no-print" @click="print">Print</button>
  </section>
</template>

<style scoped>
.evening {
  padding: 10px 14px;
}

dl {
  display: grid;
  gap: 4px 14px;
  grid-template-columns: minmax(110px, auto) 1fr;
  margin: 8px 0;
}

dt {
  font-weight: 600;
}

dd {
  margin: 0;
}

.look {
  color: var(--ochre);
}
</style>
