<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { type Finding, Refused, type Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuild, useBuildId, useResults } from '@/api/queries'
import { fixed } from '@/format'

import VerdictMark from './VerdictMark.vue'

const props = defineProps<{ finding: Finding; linked?: boolean }>()

const id = useBuildId()
const { data: build } = useBuild(id)
const { data: results } = useResults(id)
const { edit, preview } = useEdits(id)
const also = ref<string | null>(null)

const circuitName = computed(
  () => build.value?.circuits.find((row) => row.id === props.finding.circuit)?.name,
)

async function look(mend: Schemas['MendView']): Promise<void> {
  also.value = 'looking…'
  try {
    const answer = await preview(mend.label, mend.operations)
    also.value = differences(answer.results)
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    also.value = problem.message
  }
}

/** What a preview changes, in the builder's words; the figures are the core's. */
function differences(after: Schemas['Results']): string {
  const before = results.value
  if (!before) return ''
  const said: string[] = []
  for (const row of Object.values(after.circuits)) {
    const was = before.circuits[row.circuit]
    const name = build.value?.circuits.find((one) => one.id === row.circuit)?.name
    if (was && fixed(was.drop_percent, 1) !== fixed(row.drop_percent, 1)) {
      said.push(`${name} drop ${fixed(was.drop_percent, 1)} → ${fixed(row.drop_percent, 1)} %`)
    }
  }
  const wires = Object.values(after.wires).filter(
    (row) => before.wires[row.wire] && before.wires[row.wire]!.size !== row.size,
  )
  if (wires.length) said.push(`${wires.length} ${wires.length === 1 ? 'wire' : 'wires'} resized`)
  const count = after.findings.length - before.findings.length
  if (count) said.push(`${Math.abs(count)} ${count < 0 ? 'fewer' : 'more'} to look at`)
  return said.length ? `also changes: ${said.join(', ')}` : 'changes nothing else'
}
</script>

<template>
  <article class="note" :class="finding.severity">
    <p class="head">
      <VerdictMark :verdict="finding.severity" />
      <b>{{ finding.title }}.</b>
      <RouterLink
        v-if="linked && finding.circuit"
        :to="{ name: 'circuits', params: { id, circuit: finding.circuit } }"
      >
        {{ circuitName }}
      </RouterLink>
    </p>
    <p>{{ finding.found }}; limit: {{ finding.limit }}. {{ finding.why }}</p>
    <p v-for="mend in finding.mends" :key="mend.label" class="mend">
      <AButton type="primary" size="small" @click="edit(mend.label, mend.operations)">
        {{ mend.label }}
      </AButton>
      <AButton size="small" @click="look(mend)">What else changes?</AButton>
      <span class="quiet" role="status">{{ also }}</span>
    </p>
  </article>
</template>

<style scoped>
.note {
  padding: 7px 10px 1px;
  border: 1px solid var(--rule);
  border-left: 4px solid var(--quiet);
  border-radius: 3px;
  background: var(--sheet);
}

.note.stop {
  border-left-color: var(--brick);
}

.note.look {
  border-left-color: var(--ochre);
}

.note p {
  margin-bottom: 5px;
}

.head {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: baseline;
}

.mend {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
</style>
