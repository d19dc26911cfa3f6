import { defineStore } from 'pinia'
import { computed, ref, watchEffect } from 'vue'
import type { RouteLocationRaw } from 'vue-router'

import { keptIn } from '@/kept'

const STORED = 'oilstone-walk'

interface Stop {
  title: string
  /** Names of the route, and what else it takes beside the build. */
  at: { name: string; params?: Record<string, string> }
  says: string
}

/** A first look round a finished car, stage by stage; each stop says what to try there. */
const STOPS: Stop[] = [
  {
    title: 'Take stock',
    at: { name: 'stock' },
    says: 'Everything that takes current: where it sits, what works it, what it is rated. Type “Seat heater” under New load: the line below says at once which relay, fuse and wire it would get.',
  },
  {
    title: 'Lay out',
    at: { name: 'lay-out' },
    says: 'Places and the runs between them, as measured with a string. The wider a run, the thicker its bundle; a triangle marks heat, edges or what moves.',
  },
  {
    title: 'Feeds and grounds',
    at: { name: 'overview' },
    says: 'The whole car on one sheet: battery, feeds, fuses, functions, loads. Fold it to what you want to see, print it on A3.',
  },
  {
    title: 'Circuits',
    at: { name: 'circuits' },
    says: 'Worst first. Choose one: its drawing, the line along which its volts fall, and the step that loses most with what helps. A wire’s “why?” tells which sizes were weighed.',
  },
  {
    title: 'Size',
    at: { name: 'size' },
    says: 'What decides every size: how much may be lost, what is on at once, what is on the shelf. “What if…” tells what an LED set or a hotter day would change.',
  },
  {
    title: 'Budget',
    at: { name: 'budget' },
    says: 'What the car draws against what the alternator gives, from parked to the motorway, and how long the battery lasts.',
  },
  {
    title: 'Bench',
    at: { name: 'bench' },
    says: 'The car that does not exist yet. Turn the key to run, put on the lights, hold the horn. Pull a fuse. Put a fault in, and look for it with the meter.',
  },
  {
    title: 'Make',
    at: { name: 'make' },
    says: 'What the loom takes: wires to cut in order, the board to build it on, what goes into each plug, what to buy.',
  },
  {
    title: 'Power up',
    at: { name: 'power-up' },
    says: 'One step at a time, with what may hurt, what to do and the reading to expect. Type what you read; it is kept. A phone does it in the footwell.',
  },
  {
    title: 'Find a fault',
    at: { name: 'find-a-fault' },
    says: 'Say what is wrong. It asks for the test that tells most for the minutes it takes, until one suspect is left.',
  },
  {
    title: 'Hand over',
    at: { name: 'hand-over' },
    says: 'The journal, and the book for the glove box. Now begin your own: the name at the top left leads to all builds, and there “Start from a kind of car” asks a few questions.',
  },
]

interface Place {
  build: number
  stop: number
}

/** Where the builder is on the walk round a build, kept over a reload; none when it was left. */
export const useWalk = defineStore('walk', () => {
  const place = ref<Place | null>(keptIn(localStorage, STORED, null))
  watchEffect(() => localStorage.setItem(STORED, JSON.stringify(place.value)))

  const stop = computed(() => (place.value ? STOPS[place.value.stop] : undefined))
  const count = STOPS.length

  /** Go to a stop of the walk round a build: the route to show; past the last one the walk is over. */
  function goTo(build: number, number: number): RouteLocationRaw | null {
    const next = STOPS[number]
    place.value = next ? { build, stop: number } : null
    return next ? { name: next.at.name, params: { ...next.at.params, id: build } } : null
  }

  return { place, stop, count, goTo, leave: () => (place.value = null) }
})
