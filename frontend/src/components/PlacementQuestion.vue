<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answered, type BuildView, client, Refused, type Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { byId } from '@/byId'
import { fixed } from '@/format'

/** Move the battery or a panel in thought: the loom before and after, and only then for real. */
const props = defineProps<{ build: BuildView }>()

const id = useBuildId()
const { edit } = useEdits(id)
const movable = computed(() =>
  props.build.parts.filter((part) => ['battery', 'panel', 'module'].includes(part.kind)),
)
const part = ref(movable.value[0]?.id ?? '')
const place = ref('')
const answer = ref<Schemas['PlacementView'] | null>(null)
const refused = ref<string | null>(null)
const busy = ref(false)

const chosen = computed(() => byId(props.build.parts).get(part.value))
const sizes = computed(() => [
  ...new Set([
    ...Object.keys(answer.value?.before.metres ?? {}),
    ...Object.keys(answer.value?.after.metres ?? {}),
  ]),
].sort((a, b) => parseFloat(a) - parseFloat(b)))
const lines = computed(() => {
  const [before, after] = [answer.value?.before, answer.value?.after]
  if (!before || !after) return []
  const drop = (loom: Schemas['LoomView']) =>
    `${fixed(loom.worst_drop_percent, 1)} % at ${nameOf(loom.worst_load)}, limit ${fixed(loom.worst_limit_percent, 1)} %`
  return [
    { what: 'Wire in all, m', before: fixed(before.total_m, 1), after: fixed(after.total_m, 1) },
    { what: 'Copper, kg', before: fixed(before.copper_kg, 2), after: fixed(after.copper_kg, 2) },
    { what: 'Loom with insulation, kg', before: fixed(before.mass_kg, 2), after: fixed(after.mass_kg, 2) },
    { what: 'Worst drop', before: drop(before), after: drop(after) },
    { what: 'Findings', before: `${before.stops} stop, ${before.looks} look`, after: `${after.stops} stop, ${after.looks} look` },
  ]
})

let asked = 0
watch([part, place, () => props.build.revision], () => void ask(), { immediate: true })

function nameOf(load: string | null): string {
  return byId(props.build.parts).get(load)?.name ?? '–'
}

function placeName(spot: string | undefined): string {
  return props.build.places.find((row) => row.id === spot)?.name ?? ''
}

async function ask(): Promise<void> {
  const mine = ++asked
  answer.value = null
  refused.value = null
  if (!chosen.value || !place.value || place.value === chosen.value.place) return
  busy.value = true
  try {
    const found = await answered(
      client.POST('/api/builds/{build_id}/placement', {
        params: { path: { build_id: id.value } },
        body: { part: part.value, place: place.value },
      }),
    )
    if (mine === asked) answer.value = found
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    if (mine === asked) refused.value = problem.message
  } finally {
    if (mine === asked) busy.value = false
  }
}

function moveIt(): void {
  const words = `Move ${chosen.value?.name} to ${placeName(place.value)}`.slice(0, 200)
  void edit(words, [{ op: 'move_part', part: part.value, place: place.value }])
}
</script>

<template>
  <div class="pane">
    <p v-if="movable.length === 0" class="empty">There is no battery or panel to move yet.</p>
    <section v-else class="question">
      <p>
        What if
        <select v-model="part" aria-label="What to move">
          <option v-for="row in movable" :key="row.id" :value="row.id">{{ row.name }}</option>
        </select>
        sat at
        <select v-model="place" aria-label="Where to">
          <option value="" disabled>choose a place…</option>
          <option v-for="row in build.places" :key="row.id" :value="row.id" :disabled="row.id === chosen?.place">
            {{ row.name }}{{ row.id === chosen?.place ? ' (now)' : '' }}
          </option>
        </select>
        ?
      </p>
      <p class="quiet">
        It is at {{ placeName(chosen?.place) }}. Fuses in a panel go along, and isolators and fuses in the
        battery’s lead; its ground cable goes to the nearest ground point. Nothing is moved until you
        say so.
      </p>
      <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
      <p v-if="busy" role="status" class="quiet">Sizing the car with it there…</p>
      <template v-if="answer">
        <table>
          <caption class="visually-hidden">
            Before and after
          </caption>
          <thead>
            <tr>
              <th scope="col"></th>
              <th scope="col" class="figure">Before</th>
              <th scope="col" class="figure">After</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="line in lines" :key="line.what">
              <th scope="row">{{ line.what }}</th>
              <td class="figure">{{ line.before }}</td>
              <td class="figure">{{ line.after }}</td>
            </tr>
            <tr v-for="size in sizes" :key="size">
              <th scope="row">{{ size }}, m</th>
              <td class="figure">{{ fixed(answer.before.metres[size] ?? 0, 1) }}</td>
              <td class="figure">{{ fixed(answer.after.metres[size] ?? 0, 1) }}</td>
            </tr>
          </tbody>
        </table>
        <p class="act">
          <AButton type="primary" @click="moveIt">Move {{ chosen?.name }} there</AButton>
        </p>
      </template>
    </section>
  </div>
</template>

<style scoped src="../pane.css"></style>
<style scoped>
.question {
  padding: 14px;
}

.question th[scope='row'] {
  padding: 4px 5px;
  font-weight: 500;
}

.question td {
  padding: 4px 8px;
  white-space: normal;
}

.act {
  margin-top: 12px;
}
</style>
