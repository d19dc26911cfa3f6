<script setup lang="ts">
import { useBuildId } from '@/api/queries'
import type { Stage } from '@/stages'

defineProps<{ stage: Stage }>()
const id = useBuildId()
</script>

<template>
  <section class="later sheet">
    <h1>{{ stage.title }}</h1>
    <p><b>This operation is not there yet.</b> Nothing here is hidden or half done.</p>
    <dl>
      <dt>What will be here</dt>
      <dd>{{ stage.later?.will }}</dd>
      <dt>Until then</dt>
      <dd>{{ stage.later?.until }}</dd>
    </dl>
    <RouterLink :to="{ name: 'stock', params: { id } }">Back to Take stock</RouterLink>
  </section>
</template>

<style scoped>
.later {
  max-width: 560px;
  margin: 24px;
  padding: 18px 22px;
}

dt {
  margin-top: 10px;
  color: var(--quiet);
  font-family: var(--heading);
  font-size: 15px;
}

dd {
  margin: 0 0 10px;
}
</style>
