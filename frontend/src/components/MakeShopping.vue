<script setup lang="ts">
import { computed } from 'vue'

import type { BuildView, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import SteadyField from '@/components/SteadyField.vue'
import { fixed, typedNumber } from '@/format'

/** What to buy, by kind, with what is in the drawer already; what takes weeks to come is marked. */
const props = defineProps<{ build: BuildView; make: Schemas['MakeView'] }>()
const { edit } = useEdits(useBuildId())

const groups = computed(() => {
  const found = new Map<string, Schemas['Item'][]>()
  for (const item of props.make.workshop.shopping) found.set(item.group, [...(found.get(item.group) ?? []), item])
  return [...found]
})
const short = (figure: number) => String(Math.round(figure * 100) / 100)
const policy = (label: string, fields: object) => edit(label, [{ op: 'change', collection: 'build', id: 'build', fields: { policy: fields } }])

function has(item: Schemas['Item'], text: string, field: HTMLInputElement): void {
  const count = text.trim() === '' ? 0 : typedNumber(text)
  field.setCustomValidity(count === null || count < 0 ? `“${text}” is no number.` : '')
  if (!field.reportValidity() || count === null) return
  const drawer: Record<string, number> = { ...props.build.policy.drawer, [item.id]: count }
  if (!count) delete drawer[item.id]
  void policy(`${short(count)} of ${item.name} in the drawer`, { drawer })
}

/** What one costs, in the builder's own money. */
function costs(item: Schemas['Item'], text: string, field: HTMLInputElement): void {
  const price = text.trim() === '' ? 0 : typedNumber(text)
  field.setCustomValidity(price === null || price < 0 ? `“${text}” is no price.` : '')
  if (!field.reportValidity() || price === null) return
  const prices: Record<string, number> = { ...props.build.policy.prices, [item.id]: price }
  if (!price) delete prices[item.id]
  void policy(`${item.name}: ${short(price)} each`, { prices })
}

const priced = computed(() => props.make.workshop.shopping.filter((item) => item.cost !== null))
const unpriced = computed(() => props.make.workshop.shopping.filter((item) => item.buy > 0 && item.cost === null).length)
const total = computed(() => priced.value.reduce((sum, item) => sum + (item.cost ?? 0), 0))

function spare(event: Event): void {
  const percent = Number((event.target as HTMLInputElement).value)
  if (percent >= 0 && percent <= 200) void policy(`${percent} % spare`, { spare_share: percent / 100 })
}
</script>

<template>
  <p class="no-print list-bar">
    <label>Spare, of small parts <input class="field short" type="number" min="0" max="200" :value="Math.round(build.policy.spare_share * 100)" @change="spare" /> %</label>
    <span class="quiet">What you type under “at hand” is taken off. ◆ takes weeks to come: order it first.</span>
  </p>
  <div class="sheet list-scrolls">
    <table>
      <caption class="visually-hidden">What to buy</caption>
      <thead>
        <tr>
          <th scope="col">What</th>
          <th scope="col" class="figure">Needed</th>
          <th scope="col" class="figure">Spare</th>
          <th scope="col" class="figure">At hand</th>
          <th scope="col" class="figure">To buy</th>
          <th scope="col" class="figure">Each</th>
          <th scope="col" class="figure">Cost</th>
          <th scope="col">Note</th>
        </tr>
      </thead>
      <tbody v-for="[group, items] in groups" :key="group">
        <tr class="head">
          <th scope="rowgroup" colspan="8">{{ group }}</th>
        </tr>
        <tr v-for="item in items" :key="item.id" :class="{ done: item.buy === 0 }">
          <th scope="row">{{ item.name }}</th>
          <td class="figure">{{ short(item.needed) }} {{ item.unit }}</td>
          <td class="figure">{{ item.spare || '' }}</td>
          <td class="figure">
            <SteadyField class="field short" :aria-label="`${item.name} at hand`" :value="item.have ? short(item.have) : ''" @put="(text, field) => has(item, text, field)" />
          </td>
          <td class="figure"><b>{{ short(item.buy) }}</b> {{ item.unit }}</td>
          <td class="figure">
            <SteadyField class="field short" :aria-label="`${item.name} costs each`" :value="item.price === null ? '' : fixed(item.price, 2)" @put="(text, field) => costs(item, text, field)" />
          </td>
          <td class="figure">{{ item.cost === null ? '' : fixed(item.cost, 2) }}</td>
          <td>{{ item.first ? '◆ order first' : '' }} <span class="quiet">{{ item.note }}</span></td>
        </tr>
      </tbody>
    </table>
    <p v-if="priced.length" class="total" role="status">
      Together <b>{{ fixed(total, 2) }}</b>{{ unpriced ? `, and ${unpriced} lines without a price` : '' }}
    </p>
    <p v-if="!groups.length" class="empty">Nothing to buy yet.</p>
  </div>
</template>

<style scoped>
.short {
  width: 64px;
  text-align: right;
}

tbody th {
  white-space: normal;
}

.total {
  padding: 8px 10px;
  text-align: right;
}

.head th::first-letter {
  text-transform: uppercase;
}

.done th,
.done td {
  color: var(--quiet);
}
</style>
