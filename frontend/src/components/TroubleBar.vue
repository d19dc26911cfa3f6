<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'

import { conflict, refusal, waysOut } from '@/api/edits'
import { moment } from '@/format'

import WaysOut from './WaysOut.vue'

function again(): void {
  void conflict.value?.again()
}
</script>

<template>
  <div v-if="conflict" class="trouble" role="alert">
    <p>
      <b>Changed in another window meanwhile:</b>
      <span v-for="row in conflict.since" :key="row.revision">
        {{ row.kind === 'do' ? '' : `${row.kind} of ` }}“{{ row.label }}” ({{ moment(row.at) }})
      </span>
    </p>
    <p>
      Your change “{{ conflict.label }}” was not saved. The screen now shows the newer build.
      <AButton type="primary" size="small" @click="again">Make my change to it</AButton>
      <AButton size="small" @click="conflict = null">Leave it out</AButton>
    </p>
  </div>
  <div v-if="refusal" class="trouble" role="alert">
    <p>
      <b>Not saved.</b> {{ refusal }}
      <WaysOut :mends="waysOut" />
      <AButton size="small" @click="refusal = null">Put away</AButton>
    </p>
  </div>
</template>

<style scoped>
.trouble {
  padding: 8px 14px 2px;
  border-left: 4px solid var(--brick);
  border-bottom: 1px solid var(--rule);
  background: var(--sheet);
}

.trouble p {
  margin-bottom: 6px;
}
</style>
