<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'

import type { Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'

/** Edits after which what was refused can be asked for again. */
defineProps<{ mends: Schemas['MendView'][] | undefined }>()

const { edit } = useEdits(useBuildId())
</script>

<template>
  <AButton v-for="mend in mends" :key="mend.label" size="small" @click="edit(mend.label, mend.operations)">
    {{ mend.label }}
  </AButton>
</template>
