import { useQueryClient } from '@tanstack/vue-query'
import { defineStore } from 'pinia'
import { computed, reactive, ref } from 'vue'

import { answered, client, Refused, type Schemas } from '@/api/client'
import { keptIn } from '@/kept'

type Request = Schemas['ProofRequest']
type Waiting = { build: number; body: Request }
export type Draft = { readings: Record<string, string>; looks: Record<string, string>; note: string }

/** Each record that waits has a name of its own: two tabs take nothing from each other. */
const WAITING = 'oilstone-proof-to-send-'
const WHO = 'oilstone-who'
const AGAIN_MS = 5000

/** What a record is known by, so that one sent twice is kept once. */
export function newMark(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(12)), (byte) => byte.toString(16).padStart(2, '0')).join('')
}

/** What is typed at steps, and what was recorded and is not at the server yet: neither is ever lost. */
export const useProofs = defineStore('proofs', () => {
  const queries = useQueryClient()
  const queue = ref<Waiting[]>(keptBefore())
  const who = ref(localStorage.getItem(WHO) ?? '')
  const drafts = reactive<Record<string, Draft>>({})
  let sending = false

  function keptBefore(): Waiting[] {
    const names = Array.from({ length: localStorage.length }, (_, at) => localStorage.key(at) ?? '')
    const rows = names.filter((name) => name.startsWith(WAITING)).map((name) => keptIn<Waiting | null>(localStorage, name, null))
    const said = (row: Waiting) => row.body.said_at ?? ''
    return rows.filter((row) => row !== null).sort((a, b) => (said(a) < said(b) ? -1 : 1))
  }

  const nameOf = (build: number, step: string) => `oilstone-step-${build}-${step}`

  /** What has been typed at a step and not been recorded. */
  function draft(build: number, step: string): Draft {
    const name = nameOf(build, step)
    drafts[name] ??= { readings: {}, looks: {}, note: '', ...keptIn(localStorage, name, {}) }
    return drafts[name] // what is assigned is not what is kept: only this one is watched
  }

  function keep(build: number, step: string): void {
    localStorage.setItem(nameOf(build, step), JSON.stringify(draft(build, step)))
  }

  function clear(build: number, step: string): void {
    const name = nameOf(build, step)
    localStorage.removeItem(name)
    drafts[name] = { readings: {}, looks: {}, note: '' }
  }

  function setWho(name: string): void {
    who.value = name
    localStorage.setItem(WHO, name)
  }

  /** Record a step: it is kept here until the server has it. */
  function record(build: number, body: Omit<Request, 'mark' | 'said_at' | 'who'>): Promise<void> {
    const whole = { ...body, mark: newMark(), said_at: new Date().toISOString(), who: who.value }
    const row = { build, body: whole as Request }
    localStorage.setItem(WAITING + whole.mark, JSON.stringify(row))
    queue.value.push(row)
    return send()
  }

  /** Send what waits, oldest first; what the server refuses goes back to where it was typed. */
  async function send(): Promise<void> {
    if (sending) return
    sending = true
    try {
      while (queue.value.length) {
        const first = queue.value[0]!
        try {
          const path = { build_id: first.build }
          await answered(client.POST('/api/builds/{build_id}/proofs', { params: { path }, body: first.body }))
        } catch (problem) {
          if (!(problem instanceof Refused)) throw problem
          const turnedAway = problem.problem.code === 'scan-again'
          if (problem.status === 0 || problem.status >= 500 || turnedAway) {
            window.setTimeout(() => void send(), AGAIN_MS)
            return
          }
          giveBack(first, problem.message)
        }
        queue.value.shift()
        localStorage.removeItem(WAITING + first.body.mark)
        await queries.invalidateQueries({ queryKey: ['proofs', first.build] })
        await queries.invalidateQueries({ queryKey: ['proof-record', first.build] })
        await queries.invalidateQueries({ queryKey: ['journal', first.build] })
      }
    } finally {
      sending = false
    }
  }

  const refused = reactive<Record<string, string>>({})

  function giveBack(row: Waiting, words: string): void {
    const typed = draft(row.build, row.body.step)
    typed.readings = { ...row.body.readings, ...typed.readings } // what was typed since is newer
    typed.looks = { ...row.body.looks, ...typed.looks }
    typed.note ||= row.body.note ?? ''
    keep(row.build, row.body.step)
    refused[row.body.step] = `Not kept. ${words} What you typed is still here.`
  }

  window.addEventListener('online', () => void send())
  void send()

  return {
    draft,
    keep,
    clear,
    record,
    send,
    who,
    setWho,
    refused,
    waiting: computed(() => queue.value.length),
    /** Steps of a build that are recorded here and not at the server yet. */
    waitingOf: (build: number) => queue.value.filter((row) => row.build === build).map((row) => row.body),
  }
})
