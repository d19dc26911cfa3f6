<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { useRouter } from 'vue-router'

import { useWalk } from '@/stores/walk'

/** What to look at and try at this stop of the walk; it takes nothing from the screen and can be left at any time. */
const props = defineProps<{ build: number }>()
const walk = useWalk()
const router = useRouter()

async function go(by: number): Promise<void> {
  const to = walk.goTo(props.build, (walk.place?.stop ?? 0) + by)
  if (to) await router.push(to)
}
</script>

<template>
  <section v-if="walk.stop && walk.place?.build === build" class="no-print" aria-label="A short walk">
    <p aria-live="polite">
      <b>{{ walk.place.stop + 1 }} of {{ walk.count }} · {{ walk.stop.title }}</b>
      {{ walk.stop.says }}
    </p>
    <div>
      <AButton size="small" :disabled="walk.place.stop === 0" @click="go(-1)">Back</AButton>
      <AButton size="small" type="primary" @click="go(1)">{{ walk.place.stop + 1 < walk.count ? 'Go on' : 'Done' }}</AButton>
      <button type="button" class="plain" @click="walk.leave()">Leave the walk</button>
    </div>
  </section>
</template>

<style scoped>
section {
  display: flex;
  gap: 8px 20px;
  align-items: center;
  justify-content: space-between;
  padding: 8px 14px;
  border-top: 3px solid var(--copper);
  background: var(--sheet);
}

p {
  max-width: 130ch;
  margin: 0;
}

b {
  margin-right: 8px;
  font-family: var(--heading);
  font-size: 17px;
}

div {
  display: flex;
  flex: none;
  gap: 10px;
  align-items: center;
}

@media (max-width: 700px) {
  section {
    flex-direction: column;
    align-items: stretch;
  }
}
</style>
