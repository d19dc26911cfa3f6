import { defineStore } from 'pinia'
import { ref, watch } from 'vue'

import type { Schemas } from '@/api/client'

export type Key = Schemas['BenchAnswer']['key']
export const KEYS: Key[] = ['off', 'accessory', 'run', 'crank']

/** What the user has set on the bench of one build. */
export interface BenchState {
  key: Key
  switches: Record<string, string>
  /** Engine speed and what else sensors tell, by name. */
  values: Record<string, number>
  /** Data buses, modules and keypads that are taken for dead. */
  lost: string[]
  red: string | null
  black: string | null
}

const STORED = 'oilstone-bench'
const AT_REST: BenchState = { key: 'off', switches: {}, values: {}, lost: [], red: null, black: null }

/** Key, switches and probes by build, kept in this tab over a reload. */
export const useBench = defineStore('bench', () => {
  const states = ref<Record<number, BenchState>>(stored())
  watch(states, (value) => sessionStorage.setItem(STORED, JSON.stringify(value)), { deep: true })

  function stateOf(build: number): BenchState {
    return { ...AT_REST, ...states.value[build] }
  }

  function change(build: number, fields: Partial<BenchState>): void {
    states.value[build] = { ...stateOf(build), ...fields }
  }

  return {
    stateOf,
    change,
    setSwitch: (build: number, part: string, position: string) =>
      change(build, { switches: { ...stateOf(build).switches, [part]: position } }),
    isLive: (build: number) => stateOf(build).key !== 'off',
  }
})

function stored(): Record<number, BenchState> {
  try {
    return JSON.parse(sessionStorage.getItem(STORED) ?? '{}')
  } catch {
    return {}
  }
}
