<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { fixed, typedNumber } from '@/format'

/** How much may be lost on the way: the school, and the figures that belong to it. */
const props = defineProps<{ build: BuildView; rules: Schemas['RulesView'] }>()
const { edit } = useEdits(useBuildId())

const policy = computed(() => props.build.policy)
const says = computed(() => props.rules.schools.find((row) => row.name === props.rules.school)?.says)
const typed = ref<Record<string, string>>({})
watch(
  () => props.build.revision,
  () => (typed.value = {}),
)

function change(label: string, fields: Record<string, unknown>): Promise<boolean> {
  return edit(label, [{ op: 'change', collection: 'build', id: 'build', fields: { policy: fields } }])
}

async function limit(row: Schemas['DropLimitView']): Promise<void> {
  const text = typed.value[row.kind]
  if (text === undefined) return
  const own = { ...policy.value.drop_limits_v }
  const value = typedNumber(text.replace(/v\s*$/i, ''))
  if (value === null || value === row.usual_v) delete own[row.kind]
  else own[row.kind] = value
  if (await change(`A ${row.kind} may lose ${value ?? row.usual_v} V`, { drop_limits_v: own })) delete typed.value[row.kind]
}

async function figure(name: 'critical_drop_percent' | 'other_drop_percent' | 'flat_drop_v', label: string): Promise<void> {
  const value = typedNumber((typed.value[name] ?? '').replace(/[v%]\s*$/i, ''))
  if (value === null) delete typed.value[name]
  else if (value !== policy.value[name]) await change(label, { [name]: value })
}
</script>

<template>
  <section class="sheet" aria-label="How much may be lost">
    <h2>How much may be lost on the way</h2>
    <p class="quiet">Feed and return together, fuses and contacts too, from the posts of the battery to the load.</p>
    <label class="school">
      school
      <select
        :value="rules.school"
        aria-label="School of drop"
        @change="change(`Judge drop ${($event.target as HTMLSelectElement).value}`, { drop_school: ($event.target as HTMLSelectElement).value })"
      >
        <option v-for="row in rules.schools" :key="row.name" :value="row.name">{{ row.name }}</option>
      </select>
      <span class="quiet">{{ says }}</span>
    </label>

    <table v-if="rules.school === 'by kind of load'">
      <thead>
        <tr>
          <th scope="col">Kind of load</th>
          <th scope="col" class="figure">At most, V</th>
          <th scope="col" class="figure">Usual, V</th>
          <th scope="col" class="figure">Loads here</th>
          <th scope="col">What it covers</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rules.limits" :key="row.kind" :class="{ own: row.own_v !== null }">
          <td>{{ row.kind }}</td>
          <td class="figure">
            <input
              :value="typed[row.kind] ?? fixed(row.own_v ?? row.usual_v, 2)"
              :aria-label="`${row.kind}, V`"
              inputmode="decimal"
              @input="typed[row.kind] = ($event.target as HTMLInputElement).value"
              @change="limit(row)"
            />
          </td>
          <td class="figure">{{ fixed(row.usual_v, 2) }}</td>
          <td class="figure">{{ row.loads.length || '' }}</td>
          <td class="quiet">{{ row.note }}</td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="rules.school === 'percent by class'" class="figures">
      <label>
        safety and critical, %
        <input
          :value="typed.critical_drop_percent ?? policy.critical_drop_percent"
          inputmode="decimal"
          @input="typed.critical_drop_percent = ($event.target as HTMLInputElement).value"
          @change="figure('critical_drop_percent', 'Drop of safety and critical circuits')"
        />
      </label>
      <label>
        comfort, %
        <input
          :value="typed.other_drop_percent ?? policy.other_drop_percent"
          inputmode="decimal"
          @input="typed.other_drop_percent = ($event.target as HTMLInputElement).value"
          @change="figure('other_drop_percent', 'Drop of comfort circuits')"
        />
      </label>
    </p>
    <p v-else-if="rules.school === 'flat'" class="figures">
      <label>
        every load, V
        <input
          :value="typed.flat_drop_v ?? policy.flat_drop_v"
          inputmode="decimal"
          @input="typed.flat_drop_v = ($event.target as HTMLInputElement).value"
          @change="figure('flat_drop_v', 'Drop of every load')"
        />
      </label>
    </p>
  </section>
</template>

<style scoped>
section {
  padding: 10px 14px;
}

.school,
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: baseline;
  margin: 6px 0 10px;
}

select {
  width: 170px;
}

input {
  width: 62px;
  text-align: right;
}

input,
select {
  height: 26px;
  padding: 0 5px;
  border: 1px solid color-mix(in srgb, var(--quiet) 55%, transparent);
  border-radius: 3px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
}

.own td:first-child::after {
  color: var(--copper);
  content: ' · yours';
}
</style>
