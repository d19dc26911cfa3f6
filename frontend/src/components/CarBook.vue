<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { ref, watch } from 'vue'

import { answered, type BuildView, client, Refused } from '@/api/client'
import { useBuildId } from '@/api/queries'
import { byId } from '@/byId'

/** The book of the car as PDF, or one circuit of it to take under the car. */
const props = defineProps<{ build: BuildView }>()
const id = useBuildId()

const KEPT = 'oilstone.builder'
const builder = ref(localStorage.getItem(KEPT) ?? '')
const paper = ref<'A4' | 'letter'>(navigator.language === 'en-US' ? 'letter' : 'A4')
const circuit = ref('')
const making = ref(false)
const refused = ref('')
const made = ref('')

watch(builder, (name) => localStorage.setItem(KEPT, name))

const path = { build_id: id.value }
const book = () =>
  client.GET('/api/builds/{build_id}/book', {
    params: { path, query: { paper: paper.value, circuit: circuit.value || undefined, builder: builder.value } },
    parseAs: 'blob',
  })
const everything = () =>
  client.GET('/api/builds/{build_id}/everything', { params: { path, query: { paper: paper.value, builder: builder.value } }, parseAs: 'blob' })

function make(): Promise<void> {
  const of = byId(props.build.circuits).get(circuit.value)?.name ?? 'book'
  return keep(book, `${props.build.name}, ${of}.pdf`)
}

async function keep(ask: typeof book | typeof everything, file: string): Promise<void> {
  making.value = true
  refused.value = made.value = ''
  try {
    const data = await answered(ask())
    const address = URL.createObjectURL(data as unknown as Blob)
    const link = document.createElement('a')
    link.href = address
    link.download = file
    link.click()
    window.setTimeout(() => URL.revokeObjectURL(address), 60_000)
    made.value = `${link.download} is with your downloads.`
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = problem.message
  } finally {
    making.value = false
  }
}
</script>

<template>
  <div class="columns">
    <form class="sheet" aria-label="Make the book" @submit.prevent="make">
      <label>
        Built by
        <input v-model="builder" class="field" maxlength="80" placeholder="your name, or that of your shop" />
      </label>
      <label>
        Paper
        <select v-model="paper" class="field">
          <option>A4</option>
          <option>letter</option>
        </select>
      </label>
      <label>
        Of
        <select v-model="circuit" class="field">
          <option value="">the whole car</option>
          <option v-for="row in build.circuits" :key="row.id" :value="row.id">{{ row.name }}</option>
        </select>
      </label>
      <AButton html-type="submit" type="primary" :loading="making">Make the PDF</AButton>
      <AButton :disabled="making" @click="keep(everything, `${build.name}, everything.zip`)">Everything in one archive</AButton>
      <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
      <p v-if="made" role="status">{{ made }}</p>
    </form>
    <section class="sheet" aria-label="What is in it">
      <h2>What is in it</h2>
      <ul>
        <li>For the owner: battery and isolator, what to do when something is dead, every lamp.</li>
        <li>What each fuse and relay is, and where.</li>
        <li>The supply as a tree, and the grounds.</li>
        <li>The car from above with its places and runs.</li>
        <li>Every circuit: its drawing, its wires.</li>
        <li>All wires, plugs and pins.</li>
        <li>What the car draws, and how long the battery lasts.</li>
        <li>What is to be looked at, and what is lived with and why.</li>
        <li>The record of proof with its readings, photos, the history of changes.</li>
      </ul>
      <p class="quiet">The book reads in black and white. The archive of everything holds it too, with every list as CSV, every drawing as SVG and the photos; it is opened again under Builds.</p>
    </section>
  </div>
</template>

<style scoped>
.columns {
  display: grid;
  gap: 12px;
  align-items: start;
  grid-template-columns: 320px minmax(0, 1fr);
}

.columns > * {
  padding: 10px 14px;
}

label {
  display: block;
  margin-bottom: 8px;
  color: var(--quiet);
}

button {
  margin: 0 8px 6px 0;
}

label .field {
  display: block;
  width: 100%;
}

ul {
  padding-left: 18px;
}

@media (max-width: 800px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
