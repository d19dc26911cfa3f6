<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { lettersOf } from '@/colours'

/**
 * A circuit from feed at the left to ground at the right. `chosen` is the part or wire under the
 * pointer, lit here and in the fall line; `live` are the amps of each wire on the bench.
 */
const props = defineProps<{
  drawing: Schemas['SchematicView']
  title: string
  live?: Record<string, number>
  troubled?: string[]
  /** Whether a press on a terminal picks it, for a probe. */
  picks?: boolean
}>()
const chosen = defineModel<string | null>('chosen', { default: null })
const emit = defineEmits<{ open: [owner: string]; pick: [terminal: string] }>()

const FLAT = ['pin', 'splice', 'bus', 'ground point']

function path(points: number[][]): string {
  return points.map(([x, y], index) => `${index ? 'L' : 'M'}${x} ${y}`).join(' ')
}

function isLive(wire: string | null): boolean {
  return wire !== null && Math.abs(props.live?.[wire] ?? 0) > 0.005
}

const summary = computed(
  () => `Schematic of ${props.title}: ${props.drawing.lines.filter((line) => line.wire).length} wires`,
)

function shortened(text: string, most = 22): string {
  return text.length > most ? `${text.slice(0, most - 1)}…` : text
}
</script>

<template>
  <svg
    class="schematic"
    :viewBox="`0 0 ${drawing.width} ${drawing.height}`"
    :style="{ '--drawn-width': `${drawing.width}px`, '--drawn-height': `${drawing.height}px` }"
    role="img"
    :aria-label="summary"
    @pointerleave="chosen = null"
  >
    <g v-for="(line, index) in drawing.lines" :key="index" class="line" :class="{ lit: line.wire && chosen === line.wire, live: isLive(line.wire) }">
      <path class="grip" :d="path(line.points)" @pointerenter="chosen = line.wire" @click="line.wire && emit('open', line.wire)" />
      <path :d="path(line.points)" />
    </g>
    <template v-for="(line, index) in drawing.lines" :key="index">
      <text v-if="line.label" class="label" :x="line.points.at(-1)![0]! - 4" :y="line.points.at(-1)![1]! - 4">
        {{ line.label }} {{ lettersOf(line.colour) }}
      </text>
    </template>
    <g
      v-for="symbol in drawing.symbols"
      :key="symbol.id"
      class="symbol"
      :class="[symbol.kind.replace(' ', '-'), { lit: symbol.part && chosen === symbol.part, troubled: symbol.part && troubled?.includes(symbol.part) }]"
      @pointerenter="chosen = symbol.part"
      @click="symbol.part && emit('open', symbol.part)"
    >
      <title>{{ symbol.name }}{{ symbol.detail ? `, ${symbol.detail}` : '' }}</title>
      <template v-if="FLAT.includes(symbol.kind)">
        <template v-if="symbol.kind === 'bus'">
          <text class="quiet" :x="symbol.x + symbol.width - 10" :y="symbol.y + symbol.height / 2 + 4" text-anchor="end">
            {{ symbol.name }}
          </text>
          <path :d="`M${symbol.x + symbol.width - 6} ${symbol.y + symbol.height / 2} h6 m-6 -8 v16`" />
        </template>
        <template v-else-if="symbol.kind === 'ground point'">
          <path
            :d="`M${symbol.x} ${symbol.y + symbol.height / 2} h4 m0 -8 v16 m4 -13 v10 m4 -7 v4`"
          />
          <text class="quiet" :x="symbol.x + 18" :y="symbol.y + symbol.height / 2 + 4">
            {{ shortened(symbol.name, 26) }}
          </text>
        </template>
        <template v-else>
          <path :d="`M${symbol.x} ${symbol.y + symbol.height / 2} h${symbol.width}`" />
          <circle :cx="symbol.x + symbol.width / 2" :cy="symbol.y + symbol.height / 2" r="3.5" class="dot" />
          <text class="quiet" :x="symbol.x + symbol.width / 2" :y="symbol.y + symbol.height / 2 - 7" text-anchor="middle">
            {{ symbol.name }}
          </text>
        </template>
      </template>
      <template v-else>
        <rect :x="symbol.x" :y="symbol.y" :width="symbol.width" :height="symbol.height" rx="3" />
        <text class="name" :x="symbol.x + 6" :y="symbol.y + 14">{{ shortened(symbol.name) }}</text>
        <text v-if="symbol.detail" class="quiet" :x="symbol.x + 6" :y="symbol.y + 27">
          {{ shortened(symbol.detail) }}
        </text>
        <path v-if="symbol.sign" class="sign" :d="symbol.sign" :transform="`translate(${symbol.sign_x} ${symbol.sign_y})`" aria-hidden="true" />
        <text
          v-for="port in symbol.ports"
          :key="port.side + port.name"
          class="port"
          :class="{ picks }"
          :role="picks ? 'button' : undefined"
          :aria-label="picks ? `Probe on ${symbol.name} ${port.name}` : undefined"
          :x="port.x + (port.side === 'left' ? 5 : -5)"
          :y="port.y + 4"
          :text-anchor="port.side === 'left' ? 'start' : 'end'"
          @click="picks && symbol.part && ($event.stopPropagation(), emit('pick', `${symbol.part}.${port.name}`))"
        >
          {{ port.name }}
        </text>
      </template>
    </g>
  </svg>
</template>

<style scoped>
.schematic {
  display: block;
  width: 100%;
  min-width: calc(var(--drawn-width) * 0.66);
  max-width: var(--drawn-width);
}

text {
  fill: var(--ink);
  font-family: var(--text);
  font-size: 11.5px;
}

.name {
  font-weight: 600;
}

.quiet,
.port,
.label {
  fill: var(--quiet);
  font-size: 10.5px;
}

.port.picks {
  cursor: crosshair;
  fill: var(--copper);
  font-size: 12.5px;
  font-weight: 600;
}

.label {
  text-anchor: end;
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 3px;
}

path,
rect,
circle {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.4;
}

rect {
  fill: var(--paper);
}

.dot {
  fill: var(--ink);
}

.sign {
  stroke: var(--quiet);
  stroke-width: 1.2;
}

.symbol {
  cursor: pointer;
}

.ground-point path {
  stroke: var(--teal);
}

.line .grip {
  cursor: pointer;
  stroke: transparent;
  stroke-width: 11;
}

.line.live path:not(.grip) {
  stroke: var(--amber);
  stroke-width: 2.6;
}

.lit .grip {
  stroke: color-mix(in srgb, var(--amber) 40%, transparent);
}

.lit rect {
  fill: color-mix(in srgb, var(--amber) 22%, var(--paper));
  stroke: var(--copper);
}

.troubled rect {
  stroke: var(--brick);
  stroke-width: 2;
}
</style>
