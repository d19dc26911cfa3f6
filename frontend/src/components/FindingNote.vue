<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { type Finding, type Operation, Refused, type Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuild, useBuildId, useResults } from '@/api/queries'
import { byId } from '@/byId'
import { fixed } from '@/format'

import VerdictMark from './VerdictMark.vue'

const props = defineProps<{ finding: Finding; linked?: boolean }>()

const id = useBuildId()
const { data: build } = useBuild(id)
const { data: results } = useResults(id)
const { edit, preview } = useEdits(id)
const also = ref<string | null>(null)
const accepting = ref(false)
const reason = ref('')

const circuitName = computed(
  () => byId(build.value?.circuits).get(props.finding.circuit)?.name,
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

/** The finding stays listed, with the reason why the builder lives with it. */
async function accept(): Promise<void> {
  if (!reason.value.trim()) return
  const { id: finding, code, parts, found, limit } = props.finding
  const value = { id: finding, code, parts, found, limit, reason: reason.value.trim() }
  const standing = build.value?.acceptances.some((row) => row.id === finding)
  const operation: Operation = standing
    ? { op: 'change', collection: 'acceptances', id: finding, fields: { found, limit, reason: value.reason } }
    : { op: 'add', collection: 'acceptances', value }
  if (await edit(`Live with: ${props.finding.title}`, [operation])) accepting.value = false
}

function reopen(): void {
  void edit(`Look again at: ${props.finding.title}`, [{ op: 'remove', collection: 'acceptances', id: props.finding.id }])
}

/** What a preview changes, in the builder's words; the figures are the core's. */
function differences(after: Schemas['Results']): string {
  const before = results.value
  if (!before) return ''
  const said: string[] = []
  for (const row of Object.values(after.circuits)) {
    const was = before.circuits[row.circuit]
    const name = byId(build.value?.circuits).get(row.circuit)?.name
    if (was && Math.abs((was.drop_v ?? 0) - (row.drop_v ?? 0)) >= 0.02) {
      said.push(`${name} loses ${fixed(was.drop_v, 2)} → ${fixed(row.drop_v, 2)} V`)
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
  <article class="note" :class="finding.accepted ? 'accepted' : finding.severity">
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
    <p v-if="finding.accepted">
      <b>You live with it:</b> {{ finding.accepted }}
      <button type="button" class="plain" @click="reopen">Look again</button>
    </p>
    <p v-else-if="finding.once_accepted">
      <b>Open again:</b> it said something else when you lived with it, because “{{ finding.once_accepted }}”.
    </p>
    <p v-for="mend in finding.accepted ? [] : finding.mends" :key="mend.label" class="mend">
      <AButton type="primary" size="small" @click="edit(mend.label, mend.operations)">
        {{ mend.label }}
      </AButton>
      <AButton size="small" @click="look(mend)">What else changes?</AButton>
      <span class="quiet" role="status">{{ also }}</span>
    </p>
    <form v-if="accepting" class="mend" @submit.prevent="accept" @keydown.esc="accepting = false">
      <input v-model="reason" maxlength="500" aria-label="Why you live with it" placeholder="why you live with it" />
      <AButton size="small" html-type="submit" :disabled="!reason.trim()">Keep the reason</AButton>
      <button type="button" class="plain" @click="accepting = false">not now</button>
    </form>
    <p v-else-if="!finding.accepted">
      <button type="button" class="plain" @click="accepting = true">Live with it…</button>
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

.note.accepted {
  border-left-color: var(--rule);
  color: var(--quiet);
}

.mend input {
  min-width: 220px;
  flex: 1;
  height: 26px;
  padding: 0 6px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
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

/* what a mend does is said whole, in as many lines as it takes */
.mend :deep(.ant-btn) {
  max-width: 100%;
  height: auto;
  text-align: left;
  white-space: normal;
}

.note > p > .plain:only-child {
  padding-left: 0;
}

.mend {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}
</style>
