<script setup lang="ts">
import type { BuildView, Schemas } from '@/api/client'
import { refusal, useEdits } from '@/api/edits'
import { useBuildId } from '@/api/queries'
import { typedNumber } from '@/format'
import { options } from '@/looms'

import EditCell from './EditCell.vue'

/** The few figures that the plan is drawn from, and what is added at the ends of wires. */
const props = defineProps<{ build: BuildView; layout: Schemas['LayoutView'] | undefined }>()

const id = useBuildId()
const { edit } = useEdits(id)
const STYLES = ['open two-seater', 'coupé', 'saloon', 'estate', 'van', 'pickup', 'buggy']
const ENGINES = ['front', 'middle', 'rear']
const FIGURES = [
  { field: 'length_m', title: 'Length, m' },
  { field: 'width_m', title: 'Width, m' },
  { field: 'front_axle_m', title: 'Nose to front axle, m' },
  { field: 'rear_axle_m', title: 'Nose to rear axle, m' },
  { field: 'doors', title: 'Doors' },
] as const
const ENDS = ['load', 'switch', 'panel', 'relay', 'battery', 'box']

function change(words: string, fields: Record<string, unknown>, done?: () => void): Promise<boolean> {
  return edit(words, [{ op: 'change', collection: 'build', id: 'build', fields }], done)
}

function set(field: string) {
  return (value: string, done: () => void) => change('Outline of the car', { body: { [field]: value } }, done)
}

function setNumber(field: string) {
  return async (text: string, done: () => void) => {
    const value = typedNumber(text)
    if (value === null) {
      refusal.value = `“${text}” is no number.`
      return false
    }
    return change('Outline of the car', { body: { [field]: value } }, done)
  }
}

function setEnd(kind: string) {
  return async (text: string, done: () => void) => {
    const value = typedNumber(text)
    if (text.trim() && (value === null || value < 0)) {
      refusal.value = `“${text}” is no length in cm.`
      return false
    }
    const ends = { ...props.build.policy.end_extra_m }
    if (value === null) delete ends[kind]
    else ends[kind] = value / 100
    return change(`Extra at a ${kind}`, { policy: { end_extra_m: ends } }, done)
  }
}

function setBody(): void {
  const conducts = !props.build.body_conducts
  void change(conducts ? 'The body conducts' : 'The body does not conduct', { body_conducts: conducts })
}
</script>

<template>
  <div class="pane">
    <section class="detail">
      <h2>The car as drawn</h2>
      <div class="facts">
        <span>Body style</span>
        <EditCell label="body style" :text="build.body.style" :options="options(STYLES)" :save="set('style')" />
        <span>Engine</span>
        <EditCell label="engine" :text="build.body.engine" :options="options(ENGINES)" :save="set('engine')" />
        <template v-for="row in FIGURES" :key="row.field">
          <span>{{ row.title }}</span>
          <EditCell :label="row.title" :text="String(build.body[row.field])" :save="setNumber(row.field)" />
        </template>
      </div>
      <p>
        <label>
          <input type="checkbox" :checked="build.body_conducts" @change="setBody" />
          the body is metal and carries returns; without it every return is a wire
        </label>
      </p>
      <h2>Plugs of sensors</h2>
      <div class="facts">
        <span>Pins, the lowest first</span>
        <EditCell
          label="order of sensor pins"
          :text="build.policy.sensor_pins"
          :options="options(layout?.sensor_pins ?? [])"
          :save="(sensor_pins, done) => change('Order of sensor pins', { policy: { sensor_pins } }, done)"
        />
      </div>
      <h2>Added at each end of a wire, cm</h2>
      <div class="facts">
        <template v-for="kind in ENDS" :key="kind">
          <span>at a {{ kind }}</span>
          <EditCell
            :label="`extra at a ${kind}`"
            :text="build.policy.end_extra_m[kind] === undefined ? '' : String(Math.round(build.policy.end_extra_m[kind]! * 100))"
            :placeholder="`usual ${Math.round((layout?.ends_m[kind] ?? 0) * 100)}`"
            :save="setEnd(kind)"
          />
        </template>
      </div>
    </section>
  </div>
</template>

<style scoped src="../pane.css"></style>
