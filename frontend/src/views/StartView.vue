<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Button as AButton } from 'ant-design-vue'
import { computed, reactive, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { answered, client, Refused } from '@/api/client'
import { useKindsOfCar } from '@/api/queries'
import PlainBar from '@/components/PlainBar.vue'
import SafetyLine from '@/components/SafetyLine.vue'
import { typedNumber } from '@/format'
import { keptIn } from '@/kept'

/** A first stock list from a few answers about the car. */
const STORED = 'oilstone-start'
const router = useRouter()
const queries = useQueryClient()
const { data: kinds, error, isFetching, refetch } = useKindsOfCar()

const answer = reactive({
  name: '',
  style: 'open two-seater',
  shell: 'plastic on a frame',
  seats: 2,
  doors: 2,
  engine: 'front',
  battery: 'luggage',
  road_lamps: true,
  options: ['electric fan', 'wipers'] as string[],
  length: '',
  width: '',
  conductors: 'metric' as 'metric' | 'awg',
  ...stored(),
})
const refused = ref<string | null>(null)
const busy = ref(false)
const usual = computed(() => kinds.value?.sizes_m[answer.style])

watch(answer, (value) => sessionStorage.setItem(STORED, JSON.stringify(value)))

function stored(): object {
  return keptIn(sessionStorage, STORED, {})
}

async function begin(): Promise<void> {
  refused.value = null
  if (!answer.name.trim()) {
    refused.value = 'Give the car a name: it is how you find it again.'
    return
  }
  const size = (text: string) => (text.trim() ? typedNumber(text) : null)
  if ([answer.length, answer.width].some((text) => text.trim() && typedNumber(text) === null)) {
    refused.value = 'Length and width are metres, like 3.65. Leave them empty for what is usual.'
    return
  }
  busy.value = true
  const { length, width, ...rest } = answer
  try {
    const created = await answered(
      client.POST('/api/kinds-of-car', {
        body: { ...rest, name: answer.name.trim(), length_m: size(length), width_m: size(width) },
      }),
    )
    sessionStorage.removeItem(STORED)
    await queries.invalidateQueries({ queryKey: ['builds'] })
    await router.push({ name: 'stock', params: { id: created.id } })
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = problem.message
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div class="page">
    <PlainBar />
    <main>
      <h1>Start from a kind of car</h1>
      <p class="quiet">
        It writes a first stock list with places and guessed lengths, to be corrected. Everything can be
        changed afterwards.
      </p>
      <div v-if="error && !kinds" class="refusal" role="alert">
        <p>The questions cannot be asked. {{ error.message }}</p>
        <AButton :loading="isFetching" @click="refetch()">Try again</AButton>
      </div>
      <form v-if="kinds" @submit.prevent="begin">
        <label class="wide"><span>Name of the build</span><input v-model="answer.name" maxlength="80" autofocus /></label>
        <label>
          <span>Body style</span>
          <select v-model="answer.style">
            <option v-for="one in kinds.styles" :key="one">{{ one }}</option>
          </select>
        </label>
        <label>
          <span>Shell</span>
          <select v-model="answer.shell">
            <option v-for="one in kinds.shells" :key="one">{{ one }}</option>
          </select>
        </label>
        <label><span>Seats</span><input v-model.number="answer.seats" type="number" min="1" max="9" /></label>
        <label><span>Doors</span><input v-model.number="answer.doors" type="number" min="0" max="6" /></label>
        <label>
          <span>Engine</span>
          <select v-model="answer.engine">
            <option v-for="one in kinds.engines" :key="one">{{ one }}</option>
          </select>
        </label>
        <label>
          <span>Battery in the</span>
          <select v-model="answer.battery">
            <option v-for="one in kinds.batteries" :key="one">{{ one }}</option>
          </select>
        </label>
        <label>
          <span>Length, m</span>
          <input v-model="answer.length" inputmode="decimal" :placeholder="`usual ${usual?.[0] ?? ''}`" />
        </label>
        <label>
          <span>Width, m</span>
          <input v-model="answer.width" inputmode="decimal" :placeholder="`usual ${usual?.[1] ?? ''}`" />
        </label>
        <label>
          <span>Wire sizes</span>
          <select v-model="answer.conductors">
            <option value="metric">mm²</option>
            <option value="awg">AWG</option>
          </select>
        </label>
        <fieldset>
          <legend>What it has</legend>
          <label class="tick"><input v-model="answer.road_lamps" type="checkbox" /> lamps for the road</label>
          <label v-for="option in kinds.options" :key="option" class="tick">
            <input v-model="answer.options" type="checkbox" :value="option" /> {{ option }}
          </label>
        </fieldset>
        <p class="wide law">
          ⚠ The road lamps are a general set. Which lamps, colours and interlocks a car must have is local
          law: check yours, and what your inspector wants.
        </p>
        <p v-if="refused" class="refusal wide" role="alert">{{ refused }}</p>
        <p class="wide">
          <AButton type="primary" html-type="submit" :loading="busy">Write the first list</AButton>
          <RouterLink class="back" :to="{ name: 'builds' }">Back to all builds</RouterLink>
        </p>
      </form>
    </main>
    <footer><SafetyLine /></footer>
  </div>
</template>

<style scoped>
.page {
  display: flex;
  min-height: 100%;
  flex-direction: column;
}

main {
  width: min(860px, 100% - 32px);
  flex: 1;
  padding: 28px 0;
  margin: 0 auto;
}

form {
  display: grid;
  gap: 12px 18px;
  grid-template-columns: repeat(3, 1fr);
}

.wide,
fieldset {
  grid-column: 1 / -1;
  margin: 0;
}

form > label > span,
legend {
  display: block;
  color: var(--quiet);
  font-family: var(--heading);
  font-size: 15px;
}

form > label > input,
select {
  width: 100%;
  height: 32px;
  padding: 0 8px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

fieldset {
  display: grid;
  gap: 6px 18px;
  padding: 10px 12px;
  border: 1px solid var(--rule);
  background: var(--sheet);
  grid-template-columns: repeat(4, 1fr);
}

.law {
  color: var(--ochre);
}

.back {
  margin-left: 16px;
}

footer {
  display: flex;
  padding: 6px 14px;
  border-top: 1px solid var(--rule);
}

@media (max-width: 700px) {
  form,
  fieldset {
    grid-template-columns: 1fr 1fr;
  }
}
</style>
