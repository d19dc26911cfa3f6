<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'

import { answered, client, Refused } from '@/api/client'
import { useBuildId, usePhotos } from '@/api/queries'
import { moment } from '@/format'

/** The photos of one thing, and a way to add one from a file or the camera. */
const props = defineProps<{ collection: string; identity: string }>()

const id = useBuildId()
const queries = useQueryClient()
const { data: photos } = usePhotos(id)
const chooser = ref<HTMLInputElement>()
const busy = ref(false)
const refused = ref<string | null>(null)

const mine = computed(() =>
  (photos.value ?? []).filter(
    (photo) => photo.collection === props.collection && photo.identity === props.identity,
  ),
)

async function add(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  busy.value = true
  refused.value = null
  const form = new FormData()
  form.append('collection', props.collection)
  form.append('identity', props.identity)
  form.append('file', file)
  try {
    await answered(
      client.POST('/api/builds/{build_id}/photos', {
        params: { path: { build_id: id.value } },
        body: form as never,
        bodySerializer: (body: unknown) => body as FormData,
      }),
    )
    await queries.invalidateQueries({ queryKey: ['photos'] })
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = problem.message
  } finally {
    busy.value = false
    input.value = ''
  }
}

async function remove(photo: number): Promise<void> {
  if (!window.confirm('Take this photo away? It cannot be brought back.')) return
  await client.DELETE('/api/builds/{build_id}/photos/{photo_id}', {
    params: { path: { build_id: id.value, photo_id: photo } },
  })
  await queries.invalidateQueries({ queryKey: ['photos'] })
}

function address(photo: number): string {
  return `/api/builds/${id.value}/photos/${photo}`
}
</script>

<template>
  <div>
    <ul v-if="mine.length">
      <li v-for="photo in mine" :key="photo.id">
        <a :href="address(photo.id)" target="_blank">
          <img :src="`${address(photo.id)}?small=true`" :alt="`Photo of ${moment(photo.at)}`" />
        </a>
        <button type="button" :aria-label="`Remove photo of ${moment(photo.at)}`" @click="remove(photo.id)">✕</button>
      </li>
    </ul>
    <input
      ref="chooser"
      class="visually-hidden"
      type="file"
      accept="image/jpeg,image/png,image/webp"
      aria-label="Photo"
      tabindex="-1"
      @change="add"
    />
    <button type="button" class="add" :disabled="busy" @click="chooser?.click()">
      {{ busy ? 'Adding…' : 'Add a photo' }}
    </button>
    <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
  </div>
</template>

<style scoped>
ul {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  padding: 0;
  margin: 0 0 8px;
  list-style: none;
}

li {
  position: relative;
}

img {
  display: block;
  width: 92px;
  height: 70px;
  border: 1px solid var(--rule);
  object-fit: cover;
}

li button {
  position: absolute;
  top: 2px;
  right: 2px;
  border: 0;
  border-radius: 3px;
  background: var(--sheet);
  color: var(--brick);
  cursor: pointer;
}

.add {
  padding: 3px 10px;
  border: 1px solid var(--copper);
  border-radius: 3px;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
}
</style>
