<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'

import { type Operation, Refused, type Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuild, useBuildId, useChangeOver } from '@/api/queries'
import FeedTabs from '@/components/FeedTabs.vue'

/** From the old fuse box to the modules, bit by bit: the car runs after every step. */
type Step = Schemas['ChangeStep']

const id = useBuildId()
const { data: build } = useBuild(id)
const { data: plan, error } = useChangeOver(id)
const { edit } = useEdits(id)
const writing = ref('')

const first = computed(() => plan.value?.steps.find((step) => step.names.length))

function before(step: Step): number {
  const at = plan.value!.steps.indexOf(step)
  return at > 0 ? plan.value!.steps[at - 1]!.ways_left : plan.value!.ways_taken
}

async function over(step: Step): Promise<void> {
  writing.value = step.title
  const operations: Operation[] = step.circuits.map((circuit) => ({ op: 'feed_by', circuit, by: 'module channels' }))
  try {
    await edit(`Change over: ${step.title.toLowerCase()}`, operations)
  } finally {
    writing.value = ''
  }
}
</script>

<template>
  <section class="page">
    <FeedTabs />
    <div class="body">
      <p v-if="error" class="empty">
        {{ error instanceof Refused ? error.message : 'The steps could not be read.' }}
        <RouterLink :to="{ name: 'functions', params: { id, recipe: 'power-module' } }">Add a power module</RouterLink>
      </p>
      <p v-else-if="!plan || !build" class="empty">Working out every step…</p>
      <template v-else>
        <header>
          <h1>Change over</h1>
          <p>
            From the old fuse box to the modules, step by step. Both work side by side, and the car runs after each.
            <b>{{ plan.ways_taken }} ways of the old box are taken now.</b>
          </p>
          <p class="caution">
            Battery negative off before anything is cut. Nothing is thrown away before the step after it is proved: the
            old wires stay taped back, and the fuse goes in again if the step fails.
          </p>
        </header>
        <ol aria-label="Steps">
          <li v-for="step in plan.steps" :key="step.title" class="sheet" :class="{ past: !step.names.length }">
            <h2>{{ step.title }}</h2>
            <p class="quiet">{{ step.why }}</p>
            <p v-if="step.done.length" class="done">✓ on modules already: {{ step.done.join(', ') }}</p>
            <template v-if="step.names.length">
              <dl>
                <dt>Goes over</dt>
                <dd><b>{{ step.names.join(', ') }}</b></dd>
                <dt>Comes out</dt>
                <dd>{{ step.out.join(', ') || 'no fuse and no relay: others still use them' }}</dd>
                <dt>Cut or led elsewhere</dt>
                <dd>{{ step.cut.join(', ') || 'nothing' }}</dd>
                <dt>Laid anew</dt>
                <dd>{{ step.laid }} wires</dd>
                <dt>Then look at</dt>
                <dd>{{ step.loads.join(', ') }}. Then start the engine: nothing else may have changed.</dd>
                <dt>Old box</dt>
                <dd>{{ before(step) }} ways taken before, {{ step.ways_left }} after</dd>
                <dt>If it fails</dt>
                <dd>Undo here; on the car the old wires go back on, and the fuses in.</dd>
              </dl>
              <p v-if="step.dead.length" class="over">Would be dead: {{ step.dead.join(', ') }}</p>
            </template>
            <details v-if="step.stays.length">
              <summary>{{ step.stays.length }} {{ step.stays.length === 1 ? 'stays' : 'stay' }} on fuses and relays</summary>
              <p v-for="row in step.stays" :key="row.circuit"><b>{{ row.name }}</b>: {{ row.why }}</p>
            </details>
            <AButton
              v-if="step.names.length"
              class="no-print"
              size="small"
              :type="step === first ? 'primary' : 'default'"
              :loading="writing === step.title"
              @click="over(step)"
            >
              Change over {{ step.title.toLowerCase() }}
            </AButton>
            <RouterLink v-if="step.done.length" class="no-print prove" :to="{ name: 'power-up', params: { id }, query: { change: step.title } }">
              Prove {{ step.title.toLowerCase() }}
            </RouterLink>
          </li>
        </ol>
        <p v-if="!plan.steps.length" class="empty">Nothing here is a function that channels can carry.</p>
      </template>
    </div>
  </section>
</template>

<style scoped src="@/page.css"></style>
<style scoped>
.body {
  min-height: 0;
  flex: 1;
  overflow-y: auto;
  padding: 10px 14px 16px;
}

header p {
  max-width: 90ch;
  margin: 2px 0;
}

.caution {
  color: var(--ochre);
}

ol {
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 0;
  margin: 8px 0;
  list-style: none;
}

li {
  padding: 6px 12px 10px;
  border-left: 4px solid var(--copper);
}

li.past {
  border-left-color: var(--teal);
}

li p {
  margin: 0 0 4px;
}

.prove {
  margin-left: 10px;
}

.done {
  color: var(--teal);
}

dl {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 2px 12px;
  margin: 4px 0 8px;
  font-size: 14px;
}

dt {
  color: var(--quiet);
}

dd {
  margin: 0;
}

details {
  margin: 4px 0 8px;
}

.over {
  color: var(--brick);
  font-weight: 600;
}
</style>
