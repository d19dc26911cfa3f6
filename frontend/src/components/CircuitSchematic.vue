<script lang="ts">
/** By wire: amps along it, and the volts at its far end, null where that floats. */
export type LiveWires = Record<string, { amps: number; volts: number | null }>
</script>

<script setup lang="ts">
import { computed } from 'vue'

import type { Schemas } from '@/api/client'
import { fixed } from '@/format'

type Symbol = Schemas['SymbolView']

/**
 * A circuit from feed at the left to ground at the right, as the core has drawn it. `chosen` is the
 * part or wire under the pointer, lit here and in the fall line; `live` is what the bench tells of
 * each wire.
 */
const props = defineProps<{
  drawing: Schemas['SchematicView']
  title: string
  live?: LiveWires
  troubled?: string[]
  /** Whether a press on a terminal picks it, for a probe. */
  picks?: boolean
}>()
const chosen = defineModel<string | null>('chosen', { default: null })
const emit = defineEmits<{ open: [owner: string]; pick: [terminal: string] }>()

const EDGE = 3.4
const WIDE = 2.2

function path(points: number[][]): string {
  return points.map(([x, y], index) => `${index ? 'L' : 'M'}${x} ${y}`).join(' ')
}

const BESIDE = 3
const BELOW = 12

/** Where the volts at the far end of a line stand: below it, on the side that it comes from. */
function atEnd(points: number[][]) {
  const [[x, y], [before]] = [points.at(-1)!, points.at(-2)!] as [[number, number], [number, number]]
  const fromLeft = before < x
  return { x: fromLeft ? x - BESIDE : x + BESIDE, y: y + BELOW, 'text-anchor': fromLeft ? 'end' : 'start' }
}

function volts(wire: string | null): string {
  const told = wire ? props.live?.[wire]?.volts : null
  return told === null || told === undefined ? '' : `${fixed(told, 1)} V`
}

const LEAST_SHOWN_A = 0.005
const FAINTEST = 0.15

/** How strongly a wire glows: faint with little current, full from an ampere; 0 with none. */
function glow(wire: string | null): number {
  const amps = Math.abs((wire && props.live?.[wire]?.amps) || 0)
  return amps > LEAST_SHOWN_A ? Math.min(FAINTEST + amps, 1) : 0
}

function isTroubled(symbol: Symbol): boolean {
  return symbol.part !== null && (props.troubled?.includes(symbol.part) ?? false)
}

const summary = computed(() => {
  const wires = props.drawing.lines.filter((line) => line.wire).length
  return wires ? `Schematic of ${props.title}: ${wires} wires` : `Drawing of ${props.title}`
})
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
    <g v-for="(line, index) in drawing.lines" :key="index" class="line" :class="{ lit: line.wire && chosen === line.wire, live: glow(line.wire) > 0 }">
      <path class="grip" :d="path(line.points)" :stroke-opacity="glow(line.wire) || undefined" @pointerenter="chosen = line.wire" @click="line.wire && emit('open', line.wire)" />
      <path :d="path(line.points)" :style="line.base ? { strokeWidth: EDGE } : undefined" />
      <path v-if="line.base" :d="path(line.points)" :style="{ stroke: line.base, strokeWidth: WIDE }" />
      <path v-if="line.tracer" :d="path(line.points)" :style="{ stroke: line.tracer, strokeWidth: WIDE }" stroke-dasharray="4 7" />
    </g>
    <circle v-for="([x, y], index) in drawing.joints" :key="index" class="dot" :cx="x" :cy="y" r="2.6" />
    <g
      v-for="symbol in drawing.symbols"
      :key="symbol.id"
      class="symbol"
      :class="[symbol.kind.replace(' ', '-'), { lit: symbol.part && chosen === symbol.part, troubled: isTroubled(symbol) }]"
      @pointerenter="chosen = symbol.part"
      @click="symbol.part && emit('open', symbol.part)"
    >
      <title>{{ symbol.name }}{{ symbol.detail ? `, ${symbol.detail}` : '' }}</title>
      <rect class="back" :x="symbol.x" :y="symbol.y" :width="symbol.width" :height="symbol.height" rx="3" />
      <rect v-if="symbol.frame" class="frame" :x="symbol.frame[0]" :y="symbol.frame[1]" :width="symbol.frame[2]" :height="symbol.frame[3]" rx="2" />
      <path v-if="symbol.strokes" :d="symbol.strokes" />
      <path v-if="symbol.sign" :d="symbol.sign" :transform="`translate(${symbol.sign_x} ${symbol.sign_y}) scale(${symbol.sign_scale})`" aria-hidden="true" />
      <circle v-for="([x, y], index) in symbol.dots" :key="index" class="dot" :cx="x" :cy="y" r="2.6" />
      <text v-for="(said, index) in symbol.texts" :key="index" :class="said.role" :x="said.x" :y="said.y" :text-anchor="said.anchor">{{ said.text }}</text>
      <template v-if="picks && symbol.part && symbol.kind !== 'bus'">
        <circle
          v-for="port in symbol.ports"
          :key="port.side + port.name"
          class="pick"
          role="button"
          :aria-label="`Probe on ${symbol.name} ${port.name}`"
          :cx="port.x"
          :cy="port.y"
          r="6"
          @click.stop="emit('pick', `${symbol.part}.${port.name}`)"
        />
      </template>
    </g>
    <template v-for="(line, index) in drawing.lines" :key="index">
      <text v-if="line.said" class="detail label" :x="line.said.x" :y="line.said.y" :text-anchor="line.said.anchor">{{ line.said.text }}</text>
      <text v-if="volts(line.wire)" class="volts label" v-bind="atEnd(line.points)">{{ volts(line.wire) }}</text>
    </template>
  </svg>
</template>

<style scoped>
.schematic {
  display: block;
  width: calc(var(--drawn-width) * var(--zoom, 1));
  max-width: none;
}

text {
  fill: var(--ink);
  font-family: var(--text);
  font-size: 11.5px;
}

.name {
  font-weight: 600;
}

.detail,
.port {
  fill: var(--quiet);
  font-size: 11px;
}

.volts {
  fill: var(--amber-ink);
  font-size: 11px;
  font-weight: 600;
}

.label {
  paint-order: stroke;
  pointer-events: none;
  stroke: var(--sheet);
  stroke-width: 3px;
}

path,
.frame,
.pick {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.4;
}

.frame {
  fill: var(--paper);
}

.back {
  fill: transparent;
}

.dot {
  fill: var(--ink);
}

.pick {
  cursor: crosshair;
  fill: var(--sheet);
  stroke: var(--copper);
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

.line.live .grip {
  stroke: color-mix(in srgb, var(--amber) 65%, transparent);
  stroke-width: 9;
}

.line.lit .grip {
  stroke: color-mix(in srgb, var(--copper) 45%, transparent);
}

.symbol.lit .back {
  fill: color-mix(in srgb, var(--amber) 22%, transparent);
}

.symbol.troubled .back {
  fill: color-mix(in srgb, var(--brick) 9%, transparent);
  stroke: var(--brick);
  stroke-dasharray: 4 3;
  transform: scale(1.05, 1.16);
  transform-box: fill-box;
  transform-origin: center;
}
</style>
