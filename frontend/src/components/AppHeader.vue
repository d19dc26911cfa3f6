<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed } from 'vue'

import { saving, useEdits } from '@/api/edits'
import { useBuild, useBuildId } from '@/api/queries'
import { amps, fixed, volts } from '@/format'
import { type Key, KEYS, useLive } from '@/stores/live'
import { useLook } from '@/stores/look'

const emit = defineEmits<{ help: []; find: [] }>()

const id = useBuildId()
const live = useLive()
const look = useLook()
const { data: build, error: unknown } = useBuild(id)
const { undo, redo } = useEdits(id)

const now = computed(() => live.calm)
const rpm = computed(() => now.value?.engine_rpm ?? 0)

/** The key springs back from crank: it cranks for as long as it is held there. */
let cranks = false
function turn(position: Key): void {
  cranks = position === 'crank'
  void live.do({ do: 'key', to: position })
}
function letGo(): void {
  if (cranks) turn('run')
}
</script>

<template>
  <header class="bar" :class="{ live: live.isLive }">
    <RouterLink class="word" :to="{ name: 'builds' }" title="All builds">OILSTONE</RouterLink>
    <span class="build">{{ build?.name }}</span>

    <div class="key" role="radiogroup" aria-label="Key">
      <button
        v-for="position in KEYS"
        :key="position"
        role="radio"
        :aria-checked="live.key === position"
        :title="position === 'crank' ? 'Cranks for as long as it is held' : undefined"
        @click="position !== 'crank' && turn(position)"
        @pointerdown="position === 'crank' && turn(position)"
        @pointerup="position === 'crank' && letGo()"
        @pointerleave="position === 'crank' && letGo()"
        @keydown.space.enter="position === 'crank' && !$event.repeat && turn(position)"
        @keyup.space.enter="position === 'crank' && letGo()"
      >
        {{ position }}
      </button>
    </div>
    <RouterLink class="bench" :to="{ name: 'bench', params: { id } }">Bench</RouterLink>

    <span class="reading" role="status">
      <b v-if="live.lost" class="trouble">■ not in touch</b>
      <b v-else-if="now && !now.settled" class="trouble">■ does not settle</b>
      <template v-else-if="live.isLive">
        <b>● LIVE {{ volts(now?.battery_v) }} · {{ amps(now?.battery_a) }}</b>
        <span class="engine">{{ rpm > 1 ? `engine ${fixed(rpm, 0)} rpm` : 'engine off' }}</span>
      </template>
      <template v-else-if="now">○ dead · battery {{ volts(now.battery_v) }}</template>
    </span>

    <span class="saved" role="status">
      <template v-if="saving">saving…</template>
      <template v-else-if="unknown">not in touch</template>
      <template v-else>saved, revision {{ build?.revision }}</template>
    </span>
    <span :title="build?.undo ? `Undo: ${build.undo}` : 'Nothing to undo'">
      <AButton ghost size="small" :disabled="!build?.undo" @click="undo">Undo</AButton>
    </span>
    <span :title="build?.redo ? `Redo: ${build.redo}` : 'Nothing to redo'">
      <AButton ghost size="small" :disabled="!build?.redo" @click="redo">Redo</AButton>
    </span>
    <AButton ghost size="small" title="Find anything, /" @click="emit('find')">Find</AButton>
    <AButton ghost size="small" :aria-pressed="look.dark" @click="look.dark = !look.dark">
      {{ look.dark ? 'Paper' : 'Dark' }}
    </AButton>
    <AButton ghost size="small" aria-label="Help" @click="emit('help')">?</AButton>
  </header>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 50px;
  padding: 6px 14px;
  border-bottom: 3px solid var(--bar);
  background: var(--bar);
  color: var(--bar-quiet);
}

.bar.live {
  border-bottom-color: #d98a00;
}

.word {
  color: var(--bar-ink);
  font-family: var(--heading);
  font-size: 22px;
  font-weight: 600;
  letter-spacing: 0.04em;
  text-decoration: none;
}

.build {
  overflow: hidden;
  max-width: 190px;
  color: var(--bar-ink);
  text-overflow: ellipsis;
  white-space: nowrap;
}

.key {
  display: flex;
  overflow: hidden;
  border: 1px solid #6b757b;
  border-radius: 3px;
}

.key button {
  padding: 5px 9px;
  border: 0;
  border-left: 1px solid #6b757b;
  background: transparent;
  color: var(--bar-ink);
  cursor: pointer;
  font-family: var(--heading);
  font-size: 15px;
  font-weight: 600;
}

.key button:first-child {
  border-left: 0;
}

.key button[aria-checked='true'] {
  background: var(--bar-ink);
  color: #1f2529;
}

.bar.live .key button[aria-checked='true'] {
  background: #d98a00;
}

.key button:focus-visible {
  outline-offset: -3px;
}

.bench {
  color: #f0b78f;
  font-family: var(--heading);
  font-size: 16px;
  font-weight: 600;
}

.reading {
  flex: 1;
  text-align: right;
  white-space: nowrap;
}

.reading b {
  color: #f0ab2e;
  font-family: var(--heading);
  font-size: 18px;
}

.reading .trouble {
  color: #f2857c;
}

.engine {
  margin-left: 8px;
}

.saved {
  min-width: 108px;
  font-size: 12.5px;
  text-align: right;
  white-space: nowrap;
}

.bar :deep(.ant-btn) {
  border-color: #b9c0c4;
  background: transparent;
  color: #fcfbf8;
}

.bar :deep(.ant-btn[disabled]) {
  border-color: #4a545b;
  color: #8b959b;
}

@media (max-width: 1100px) {
  .engine,
  .build {
    display: none;
  }
}

@media (max-width: 900px) {
  .saved {
    display: none;
  }

  .bar {
    flex-wrap: wrap;
  }
}

/* with buttons for fingers there is no room beside them: the reading has a line of its own */
@media (min-width: 481px) and (max-width: 900px) and (pointer: coarse) {
  .bar {
    gap: 4px 7px;
    padding: 6px 10px;
  }

  .reading {
    flex-basis: 100%;
    order: 1;
    text-align: left;
  }
}

@media (max-width: 480px) {
  .bar {
    gap: 5px;
    padding: 5px 8px;
  }

  .word {
    flex: 1;
    font-size: 19px;
  }

  .reading {
    overflow: hidden;
    min-width: 0;
    flex-basis: 100px;
    font-size: 13px;
    text-align: left;
    text-overflow: ellipsis;
  }

  .reading b {
    font-size: 15px;
  }
}
</style>
