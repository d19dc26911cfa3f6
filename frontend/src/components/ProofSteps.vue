<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'

import type { Schemas } from '@/api/client'
import { useBuildId } from '@/api/queries'
import { type Mark, MARKS, type Step } from '@/proving'

/** The steps of a proof in their order, by section, with where each stands. */
const props = defineProps<{
  sections: Schemas['SectionView'][]
  steps: Step[]
  marks: Map<string, Mark>
  chosen: string | undefined
}>()

const id = useBuildId()
const list = ref<HTMLElement>()

const groups = computed(() =>
  props.sections
    .map((section) => {
      const steps = props.steps.filter((step) => step.section === section.id)
      const done = steps.filter((step) => props.marks.get(step.id) === 'passed').length
      return { ...section, steps, done }
    })
    .filter((group) => group.steps.length),
)

watch(
  () => props.chosen,
  async () => {
    await nextTick()
    list.value?.querySelector('.chosen')?.scrollIntoView({ block: 'nearest' })
  },
  { immediate: true },
)
</script>

<template>
  <nav ref="list" class="steps" aria-label="Steps">
    <section v-for="group in groups" :key="group.id">
      <h2>
        {{ group.title }} <span class="quiet">{{ group.done }} of {{ group.steps.length }}</span>
      </h2>
      <RouterLink
        v-for="step in group.steps"
        :key="step.id"
        :to="{ name: 'power-up', params: { id, step: step.id }, query: $route.query }"
        :class="{ chosen: step.id === chosen }"
        :aria-current="step.id === chosen ? 'step' : undefined"
      >
        <span :class="['sign', marks.get(step.id)]" aria-hidden="true">{{ MARKS[marks.get(step.id) ?? 'open'].sign }}</span>
        <span>
          {{ step.title }}
          <span class="visually-hidden">, {{ MARKS[marks.get(step.id) ?? 'open'].word }}</span>
        </span>
      </RouterLink>
    </section>
    <p v-if="!groups.length" class="quiet none">No step is left with this choice.</p>
  </nav>
</template>

<style scoped>
.steps {
  overflow-y: auto;
  min-height: 0;
  flex: 1;
}

h2 {
  position: sticky;
  z-index: 1;
  top: 0;
  padding: 6px 12px 4px;
  margin: 0;
  border-bottom: 1px solid var(--rule);
  background: var(--card);
  font-size: 16px;
}

h2 span {
  font-family: var(--text);
  font-size: 13px;
  font-weight: 400;
}

a {
  display: flex;
  gap: 8px;
  padding: 4px 10px 4px 9px;
  border-bottom: 1px solid var(--rule);
  border-left: 3px solid transparent;
  color: var(--ink);
  line-height: 1.25;
  text-decoration: none;
}

a.chosen {
  border-left-color: var(--copper);
  background: var(--copper-wash);
}

.sign {
  width: 12px;
  flex: none;
  color: var(--quiet);
}

.sign.passed {
  color: var(--moss);
}

.sign.failed {
  color: var(--brick);
}

.sign.again,
.sign.waits {
  color: var(--ochre);
}

.none {
  padding: 12px;
}

@media (max-width: 700px) {
  a {
    min-height: 44px;
    align-items: center;
  }
}
</style>
