<script setup lang="ts">
import { computed, ref } from 'vue'

import type { Schemas } from '@/api/client'
import { useEdits } from '@/api/edits'
import { useBuild, useBuildId, useModules } from '@/api/queries'
import { byId } from '@/byId'
import ConditionEditor from '@/components/ConditionEditor.vue'
import EditCell from '@/components/EditCell.vue'
import FeedTabs from '@/components/FeedTabs.vue'
import LossTable from '@/components/LossTable.vue'
import { fixed } from '@/format'

/** What every module does and when, what it hears, and what is left when something is lost. */
const id = useBuildId()
const { data: build } = useBuild(id)
const { data: found, error } = useModules(id)
const { edit } = useEdits(id)

const open = ref('')
const modules = computed(() => found.value?.modules ?? [])
const larger = computed(() => modules.value.filter((row) => row.kind === 'module'))

function key(module: Schemas['ModuleLine'], channel: Schemas['ChannelLine']): string {
  return `${module.id}.${channel.name}`
}

async function save(module: Schemas['ModuleLine'], channel: string, when: string, limit_a: number | null, soft_s: number | null): Promise<boolean> {
  return edit(`${module.name}, ${channel}: ${when || 'never'}`, [
    { op: 'set_condition', part: module.id, output: channel, when, limit_a, soft_s },
  ], () => (open.value = ''))
}

function rename(button: string, name: string, done: () => void): Promise<boolean> {
  return edit(`Call a button ${name}`, [{ op: 'change', collection: 'parts', id: button, fields: { name } }], done)
}

function light(button: Schemas['ButtonLine'], lamp: string): Promise<boolean> {
  const figures = { ...byId(build.value?.parts).get(button.id)?.figures, lamp }
  return edit(`${button.name}: ${lamp === 'none' ? 'no lamp' : `a ${lamp} lamp`}`, [
    { op: 'change', collection: 'parts', id: button.id, fields: { figures } },
  ])
}

/** Channels that do something, and the one that is being written. */
function shown(module: Schemas['ModuleLine']): Schemas['ChannelLine'][] {
  return module.channels.filter((row) => row.when || open.value === key(module, row))
}

function free(module: Schemas['ModuleLine']): Schemas['ChannelLine'][] {
  return module.channels.filter((row) => !row.when && open.value !== key(module, row))
}

function used(module: Schemas['ModuleLine']): number {
  return module.channels.filter((row) => row.when).length
}
</script>

<template>
  <section class="modules">
    <FeedTabs />
    <div class="body">
      <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
      <p v-else-if="!found || !build" class="empty">Asking every module…</p>
      <p v-else-if="!modules.length" class="empty">
        No module yet. One takes the place of small fuses and relays near its loads.
        <RouterLink :to="{ name: 'functions', params: { id, recipe: 'power-module' } }">Add a power module</RouterLink>
        or
        <RouterLink :to="{ name: 'draft', params: { id } }">draft the wiring on modules</RouterLink>.
      </p>
      <template v-else>
        <header>
          <h1>Modules and buses</h1>
          <span class="quiet">press a sentence to say anew when a channel is on</span>
          <RouterLink :to="{ name: 'functions', params: { id, recipe: 'power-module' } }">Add a module</RouterLink>
          <RouterLink :to="{ name: 'functions', params: { id, recipe: 'keypad' } }">Add a keypad</RouterLink>
          <RouterLink :to="{ name: 'functions', params: { id, recipe: 'data-bus' } }">Add a data bus</RouterLink>
        </header>

        <section v-for="module in modules" :key="module.id" class="sheet" :aria-label="module.name">
          <h2>{{ module.name }}</h2>
          <p class="quiet facts">
            {{ module.row || module.kind }}, {{ module.place }} · {{ used(module) }} of {{ module.channels.length }} channels
            <template v-if="module.most_inputs"> · {{ module.inputs }} of {{ module.most_inputs }} inputs</template>
            <template v-if="module.bears_a">
              · <span :class="{ over: module.most_a > module.bears_a }">{{ fixed(module.most_a, 0) }} of {{ fixed(module.bears_a, 0) }} A</span> for ever
            </template>
            <template v-if="module.awake"> · {{ module.awake }}</template>
            <template v-if="module.trips"><br />{{ module.trips }}</template>
          </p>
          <table>
            <thead>
              <tr>
                <th scope="col" class="name">Channel</th>
                <th scope="col">Feeds</th>
                <th scope="col" class="when">Is on</th>
                <th scope="col" class="figure">Most, A</th>
                <th scope="col" class="figure">Trips above, A</th>
                <th scope="col" class="figure">Bears, A</th>
              </tr>
            </thead>
            <tbody>
              <template v-for="channel in shown(module)" :key="channel.name">
                <tr>
                  <th scope="row">{{ channel.name }}<small v-if="channel.is_bridge" class="quiet"> half-bridge</small><small v-if="channel.with_it.length" class="quiet"> and {{ channel.with_it.join(', ') }}, bridged at the plug</small><small v-if="channel.soft_s" class="quiet"> soft, {{ channel.soft_s }} s</small></th>
                  <td>{{ channel.loads.join(', ') || 'nothing yet' }}</td>
                  <td>
                    <button
                      type="button"
                      class="says"
                      :aria-expanded="open === key(module, channel)"
                      :aria-label="`${module.name}, ${channel.name} is on ${channel.says}`"
                      @click="open = open === key(module, channel) ? '' : key(module, channel)"
                    >
                      {{ channel.says }}
                    </button>
                  </td>
                  <td class="figure">{{ channel.when ? fixed(channel.most_a, 1) : '' }}</td>
                  <td class="figure" :class="{ over: channel.limit_a !== null && channel.most_a > channel.limit_a }">
                    {{ channel.limit_a === null ? '' : fixed(channel.limit_a, 1) }}
                  </td>
                  <td class="figure">{{ channel.bears_a === null ? '' : fixed(channel.bears_a, 0) }}</td>
                </tr>
                <tr v-if="open === key(module, channel)">
                  <td colspan="6" class="editor">
                    <ConditionEditor
                      :part="module.id"
                      :channel="channel"
                      :heard="module.heard"
                      :softest="channel.is_bridge ? 0 : module.softest_s"
                      :save="(when, limit, soft) => save(module, channel.name, when, limit, soft)"
                      @close="open = ''"
                    />
                  </td>
                </tr>
              </template>
              <tr v-if="free(module).length">
                <th scope="row" class="quiet">free</th>
                <td colspan="5">
                  <button
                    v-for="channel in free(module)"
                    :key="channel.name"
                    type="button"
                    class="chip"
                    :title="channel.bears_a === null ? '' : `bears ${fixed(channel.bears_a, 0)} A`"
                    :aria-label="`${module.name}, ${channel.name} is free`"
                    @click="open = key(module, channel)"
                  >
                    {{ channel.name }}<small v-if="channel.bears_a !== null" class="quiet"> {{ fixed(channel.bears_a, 0) }} A</small>
                  </button>
                </td>
              </tr>
            </tbody>
          </table>
        </section>

        <section v-for="pad in found.keypads" :key="pad.id" class="sheet" :aria-label="pad.name">
          <h2>{{ pad.name }}</h2>
          <p class="quiet facts">{{ pad.place }}</p>
          <ul class="buttons">
            <li v-for="button in pad.buttons" :key="button.id">
              <EditCell
                class="button-name"
                :text="button.name"
                :label="`name of ${button.name}`"
                :save="(name, done) => rename(button.id, name, done)"
              />
              <label class="lamp">
                lamp
                <select class="field" :value="button.lamp" @change="light(button, ($event.target as HTMLSelectElement).value)">
                  <option v-for="lamp in found.lamps" :key="lamp" :value="lamp">{{ lamp }}</option>
                </select>
              </label>
              <span>{{ button.held ? 'held' : button.positions.join(', ') }}</span>
              <span :class="button.asked_by.length ? 'quiet' : 'over'">
                {{ button.asked_by.join('; ') || 'no condition asks for it' }}
              </span>
            </li>
          </ul>
        </section>

        <section v-if="found.buses.length" class="sheet" aria-label="Data buses">
          <h2>Data buses</h2>
          <table>
            <thead>
              <tr>
                <th scope="col">Bus</th>
                <th scope="col">On it</th>
                <th scope="col" class="figure">Length, m</th>
                <th scope="col" class="figure">Longest stub, m</th>
                <th scope="col" class="figure">Ends of 120 Ω</th>
                <th scope="col" class="figure">At most, kbit/s</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="bus in found.buses" :key="bus.id">
                <th scope="row">{{ bus.name }}</th>
                <td>{{ bus.members.join(', ') }}</td>
                <td class="figure">{{ fixed(bus.length_m, 1) }}</td>
                <td class="figure">{{ fixed(bus.stub_m, 1) }}</td>
                <td class="figure" :class="{ over: bus.ends !== 2 }">{{ bus.ends }} of 2</td>
                <td class="figure" :class="{ over: bus.most_kbit_s === null }">{{ bus.most_kbit_s ?? 'too long' }}</td>
              </tr>
            </tbody>
          </table>
        </section>

        <LossTable v-if="found.losses.length && larger.length" :losses="found.losses" :build="build" />
      </template>
    </div>
  </section>
</template>

<style scoped>
.modules {
  display: flex;
  height: 100%;
  flex-direction: column;
}

.body {
  display: flex;
  min-height: 0;
  flex: 1;
  flex-direction: column;
  gap: 8px;
  overflow-y: auto;
  padding: 10px 14px 16px;
}

.body > * {
  flex: none;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
}

section.sheet {
  overflow-x: auto;
  padding: 6px 10px 8px;
}

.facts {
  margin: 0 0 4px;
}

th.name {
  width: 110px;
}

th.when {
  width: 40%;
}

@media (max-width: 900px) {
  th.name {
    width: 60px;
  }
}

tbody th {
  font-weight: 600;
  text-align: left;
  white-space: nowrap;
}

tbody td,
tbody th {
  border-bottom: 1px solid var(--rule);
  font-size: 13px;
}

tbody th small {
  display: block;
  font-weight: 400;
  white-space: normal;
}

.chip {
  padding: 0 6px;
  border: 1px dashed var(--quiet);
  border-radius: 3px;
  margin: 1px 4px 1px 0;
  background: none;
  color: inherit;
  cursor: pointer;
  font: inherit;
}

.chip small {
  margin-left: 4px;
}

.says {
  width: 100%;
  padding: 2px 4px;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  color: inherit;
  cursor: pointer;
  font: inherit;
  text-align: left;
}

.says:hover,
.says[aria-expanded='true'] {
  border-color: var(--rule);
  color: var(--copper);
}

.editor {
  padding: 6px 10px 10px;
  background: var(--paper);
}

.over {
  color: var(--brick);
  font-weight: 600;
}

.buttons {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(230px, 1fr));
  gap: 6px;
  padding: 0;
  margin: 4px 0;
  list-style: none;
}

.lamp {
  display: flex;
  gap: 5px;
  align-items: center;
  color: var(--quiet);
}

.button-name {
  font-weight: 600;
}

.buttons li {
  display: flex;
  flex-direction: column;
  padding: 5px 9px;
  border: 1px solid var(--rule);
  border-radius: 4px;
  font-size: 13px;
}
</style>
