<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import type { Operation, Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBudget, useBudgetWithLedLamps, useBuild, useBuildId } from '@/api/queries'
import BudgetPicture from '@/components/BudgetPicture.vue'
import BudgetScenario from '@/components/BudgetScenario.vue'
import BudgetSideBySide from '@/components/BudgetSideBySide.vue'
import VerdictMark from '@/components/VerdictMark.vue'
import { current, fixed } from '@/format'

/** What the car draws while it does this or that, against alternator and battery. */
const id = useBuildId()
const { data: build } = useBuild(id)
const { data: budget, error } = useBudget(id)
const { edit } = useEdits(id)
const route = useRoute()
const router = useRouter()

const withLed = ref(false)
const { data: led, isFetching: asking } = useBudgetWithLedLamps(id, withLed)
const ledOf = computed(() => new Map(led.value?.scenarios.map((row) => [row.id, row])))

const rows = computed(() => budget.value?.scenarios ?? [])
const chosen = computed(() => rows.value.find((row) => row.id === route.params.scenario) ?? rows.value[0])
const compared = ref<string[]>([])
const side = computed(() => rows.value.filter((row) => compared.value.includes(row.id)))

function choose(scenario: string): void {
  void router.push({ name: 'budget', params: { id: id.value, scenario } })
}

const days = (figure: number | null) => (figure === null ? 'never surely' : figure >= 700 ? 'over 2 years' : `${fixed(figure, 0)} days`)
const fits = (fit: Schemas['Fitting']) => (fit.has ?? 0) >= (fit.least ?? Infinity)
const fit = (mend: Schemas['Mend']) => edit(mend.label, mend.operations as Operation[])
const setPolicy = (label: string, fields: Record<string, number>) =>
  edit(label, [{ op: 'change', collection: 'build', id: 'build', fields: { policy: fields } }])

function setMargin(event: Event): void {
  const percent = Number((event.target as HTMLInputElement).value)
  if (percent >= 0 && percent <= 200) void setPolicy(`Charge margin ${percent} %`, { charge_margin: percent / 100 })
}

function setDays(event: Event): void {
  const value = Number((event.target as HTMLInputElement).value)
  if (value >= 1 && value <= 365) void setPolicy(`Parked for ${value} days`, { parked_days: value })
}
</script>

<template>
  <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
  <p v-else-if="!budget || !build" class="empty">Solving every scenario…</p>
  <div v-else class="budget">
    <header>
      <h1>Budget</h1>
      <span class="quiet">what the car draws while it does this or that, against alternator and battery</span>
    </header>

    <section class="answers" aria-label="Answers">
      <article class="sheet">
        <h2>Alternator</h2>
        <p class="large">
          {{ budget.alternator.has === null ? 'none' : `${fixed(budget.alternator.has, 0)} A` }}
          <VerdictMark :verdict="fits(budget.alternator) ? 'fine' : 'look'" />
        </p>
        <p>
          {{ budget.alternator.least === null ? 'None of the usual ones does.' : `The least that does: ${fixed(budget.alternator.least, 0)} A.` }}
          {{ budget.alternator.why }}
        </p>
        <label>
          For the battery on the road
          <input class="field short" type="number" min="0" max="200" :value="Math.round(budget.margin * 100)" @change="setMargin" /> %
        </label>
        <p v-for="mend in budget.alternator.mends" :key="mend.label">
          <AButton size="small" @click="fit(mend)">{{ mend.label }}</AButton>
        </p>
      </article>
      <article class="sheet">
        <h2>Battery</h2>
        <p class="large">
          {{ fixed(budget.battery.has, 0) }} Ah <VerdictMark :verdict="fits(budget.battery) ? 'fine' : 'look'" />
        </p>
        <p>
          {{ budget.battery.least === null ? 'None of the usual ones does.' : `The least that does: ${fixed(budget.battery.least, 0)} Ah.` }}
          {{ budget.battery.why }}
        </p>
        <p v-for="mend in budget.battery.mends" :key="mend.label">
          <AButton size="small" @click="fit(mend)">{{ mend.label }}</AButton>
        </p>
        <p v-if="budget.second_battery_h" class="quiet">
          A second one like it, for what is on at a show, would last {{ fixed(budget.second_battery_h, 1) }} h and leave this one full to start.
        </p>
      </article>
      <article v-if="budget.parked" class="sheet">
        <h2>Parked</h2>
        <p class="large">
          {{ days(budget.parked.to_half_days) }}
          <VerdictMark :verdict="budget.parked.to_half_days >= budget.parked.wanted_days ? 'fine' : 'look'" />
        </p>
        <p>
          until the battery is half empty, at {{ current(budget.parked.draw_a) }}{{ budget.parked.measured ? ', measured' : '' }} and
          {{ current(budget.parked.by_itself_a) }} that it loses by itself. Below 80 % after {{ days(budget.parked.to_sulphation_days) }}: left so, its
          plates sulphate. No longer starts: {{ days(budget.parked.to_no_start_days) }}.
        </p>
        <label>
          To last
          <input class="field short" type="number" min="1" max="365" :value="budget.parked_days" @change="setDays" /> days
        </label>
      </article>
      <article v-if="budget.cranking" class="sheet">
        <h2>Cranking</h2>
        <p class="large">
          {{ fixed(budget.cranking.first_v ?? budget.cranking.posts_v, 1) }} V
          <VerdictMark :verdict="rows.find((row) => row.id === budget!.cranking!.scenario)?.verdict ?? 'fine'" />
        </p>
        <p>
          at the posts as the starter begins to turn, {{ fixed(budget.cranking.posts_v, 1) }} V while it turns; a fit battery holds
          {{ fixed(budget.cranking.least_v, 1) }} V then. The starter takes {{ fixed(budget.cranking.starter_a, 0) }} A;
          {{ fixed(budget.cranking.cable_v, 2) }} V are lost between posts and starter, there and back.
          {{ budget.cranking.drop_out.length ? `Drop out: ${budget.cranking.drop_out.join(', ')}.` : 'No box drops out.' }}
        </p>
      </article>
    </section>

    <section class="sheet picture" aria-label="Draw against engine speed">
      <BudgetPicture :budget="budget" :chosen="chosen?.id ?? ''" @choose="choose" />
    </section>

    <section class="sheet scenarios" aria-label="Scenarios">
      <div class="over">
        <h2>Scenarios</h2>
        <label><input v-model="withLed" type="checkbox" /> with LED lamps</label>
        <span v-if="withLed" class="quiet" role="status">
          {{ asking ? 'Solving with LED lamps…' : led ? `least alternator then ${led.alternator.least === null ? 'none' : `${led.alternator.least} A`}` : '' }}
        </span>
      </div>
      <div class="scrolls">
        <table>
          <thead>
            <tr>
              <th scope="col"><span class="visually-hidden">Number</span></th>
              <th scope="col">Scenario</th>
              <th scope="col" class="figure">Draws</th>
              <th v-if="led && withLed" scope="col" class="figure">With LED</th>
              <th scope="col" class="figure">Alternator A</th>
              <th scope="col" class="figure">of A</th>
              <th scope="col" class="figure">Battery</th>
              <th scope="col" class="figure">Posts V</th>
              <th scope="col">Answer</th>
              <th scope="col">Side by side</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(row, n) in rows" :key="row.id" :class="{ here: row.id === chosen?.id }">
              <td class="number">{{ n + 1 }}</td>
              <th scope="row">
                <button class="plain" :aria-current="row.id === chosen?.id" @click="choose(row.id)">{{ row.name }}</button>
              </th>
              <td class="figure">{{ current(row.draws_a) }}</td>
              <td v-if="led && withLed" class="figure">{{ current(ledOf.get(row.id)?.draws_a) }}</td>
              <td class="figure">{{ row.engine_rpm ? fixed(row.alternator_a, 1) : '–' }}</td>
              <td class="figure">{{ row.engine_rpm ? fixed(row.alternator_most_a, 1) : '–' }}</td>
              <td class="figure">{{ row.battery_a < -0.05 ? `takes ${fixed(-row.battery_a, 1)}` : `gives ${current(Math.max(row.battery_a, 0))}` }}</td>
              <td class="figure">{{ fixed(row.posts_v, 1) }}</td>
              <td class="says"><VerdictMark :verdict="row.verdict" /> {{ row.says }}</td>
              <td><input v-model="compared" type="checkbox" :value="row.id" :aria-label="`${row.name} side by side`" /></td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-for="(why, name) in budget.problems" :key="name" class="refusal">{{ name }}: {{ why }}</p>
    </section>

    <BudgetSideBySide v-if="side.length" :rows="side" />
    <BudgetScenario v-if="chosen" :key="chosen.id" :build="build" :row="chosen" :shown="route.params.scenario !== undefined && route.params.scenario !== ''" @choose="choose" />
  </div>
</template>

<style scoped>
.budget {
  display: flex;
  height: 100%;
  flex-direction: column;
  gap: 10px;
  overflow-y: auto;
  padding: 10px 14px 16px;
}

header,
.over {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}

.answers {
  display: grid;
  gap: 10px;
  grid-template-columns: repeat(auto-fit, minmax(210px, 1fr));
}

.answers article,
.picture,
.scenarios {
  padding: 8px 12px 10px;
}

.answers p {
  margin-bottom: 6px;
  font-size: 13.5px;
}

.answers .large {
  margin: 2px 0 4px;
  font-family: var(--heading);
  font-size: 25px;
  font-weight: 600;
}

.short {
  width: 58px;
}

.scrolls {
  overflow-x: auto;
}

tbody th {
  color: var(--ink);
  font-family: var(--text);
  font-weight: 400;
}

.number {
  color: var(--quiet);
  font-family: var(--heading);
}

.says {
  min-width: 180px;
}

@media (max-width: 900px) {
  .answers {
    grid-template-columns: 1fr 1fr;
  }

  .scenarios td,
  .scenarios th {
    padding: 3px 4px;
    white-space: normal;
  }
}

tr.here td,
tr.here th {
  background: var(--copper-wash);
}
</style>
