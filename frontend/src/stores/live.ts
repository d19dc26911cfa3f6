import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import { answered, client, Refused, type Schemas } from '@/api/client'
import { fixed } from '@/format'

export type Session = Schemas['SessionView']
export type Frame = Schemas['FrameView']
export type Event = Schemas['EventView']
export type Key = Frame['key']
export const KEYS: Key[] = ['off', 'accessory', 'run', 'crank']

/** One thing to do at the bench: an action of a script without its time. */
export interface Action {
  do: string
  of?: string
  to?: string | number | null
  fault?: { kind: string; of: string; other?: string; ohm?: number }
  meter?: { kind: string; red?: string; black?: string; wire?: string; limit_a?: number } | null
}

interface News {
  revision: number
  version: number
  rate: number
  /** How many events there have been, those of ``tape`` the last of them. */
  told: number
  frame: Partial<Frame>
  tape?: Event[]
}

const CALM_MS = 250
const MOST_TOLD = 400

/** The bench of the build that is open: its session, the newest frame, and what can be done. */
export const useLive = defineStore('live', () => {
  const build = ref(0)
  const session = shallowRef<Session>()
  const frame = shallowRef<Frame>()
  /** The same a few times a second: what is to be read. */
  const calm = shallowRef<Frame>()
  const tape = shallowRef<Event[]>([])
  const rate = ref(1)
  const lost = ref(false)
  const refused = ref('')
  let source: EventSource | undefined
  /** The frame as the stream has told it. What else is answered may overtake it or come after, and
   * is no base for what the stream says has changed since. */
  let streamed: Partial<Frame> = {}
  let shownMs = 0
  let asking = false
  let told = 0
  let before: Promise<unknown> = Promise.resolve()

  /** Follow a build's bench, with a frame each so many seconds; 0 follows none. */
  function follow(id: number, everyS: number): void {
    source?.close()
    source = undefined
    streamed = {}
    if (id !== build.value) {
      session.value = frame.value = calm.value = undefined
      tape.value = []
      build.value = id
    }
    if (!id) return
    if (!session.value) void ask()
    source = new EventSource(`/api/builds/${id}/bench/stream?every_s=${everyS}`)
    source.onmessage = (event) => take(JSON.parse(event.data) as News)
    source.onerror = () => (lost.value = true)
  }

  function take(news: News): void {
    lost.value = false
    rate.value = news.rate
    streamed = { ...streamed, ...news.frame }
    show(streamed as Frame)
    const fresh = Math.min(news.told - told, news.tape?.length ?? 0)
    if (fresh > 0) {
      tape.value = [...tape.value, ...news.tape!.slice(-fresh)].slice(-MOST_TOLD)
      told = news.told
    }
    if (session.value && (news.version !== session.value.version || news.revision !== session.value.revision)) void ask()
  }

  function show(next: Frame): void {
    frame.value = next
    const now = performance.now()
    if (now - shownMs < CALM_MS) return
    shownMs = now
    calm.value = next
  }

  function open(answer: Session): void {
    session.value = answer
    rate.value = answer.rate
    tape.value = answer.tape
    told = answer.told
    shownMs = 0
    show(answer.frame)
  }

  async function ask(): Promise<void> {
    if (asking) return
    asking = true
    const of = build.value
    await heard(answered(client.GET('/api/builds/{build_id}/bench', at())), of)
    asking = false
  }

  /** Take the answer to something that was asked; what is refused is said. */
  async function heard(answer: Promise<Session>, of = build.value): Promise<boolean> {
    try {
      const next = await answer
      if (of === build.value) open(next)
      refused.value = ''
      return true
    } catch (problem) {
      refused.value = problem instanceof Refused ? problem.message : String(problem)
      return false
    }
  }

  /** Do things, after all that was done before has been done: a button let go must not overtake its press. */
  function perform(...actions: Action[]): Promise<boolean> {
    const body = { actions: actions as unknown as Record<string, unknown>[] }
    const done = before.then(() => heard(answered(client.POST('/api/builds/{build_id}/bench/do', { ...at(), body }))))
    before = done
    return done
  }

  /** What a load does now, of rated; a gauge by its pointer. */
  function doing(part: Schemas['PartView']): string {
    const pointer = calm.value?.pointers[part.id]
    if (pointer) return `reads ${pointer.words}`
    return `${fixed(calm.value?.load_percent[loadAt.value.get(part.id) ?? -1], 0)} % ${part.output_word}`
  }

  const at = () => ({ params: { path: { build_id: build.value } } })
  /** The number of each load and wire in the lists of frames. */
  const loadAt = computed(() => new Map(session.value?.loads.map((id, n) => [id, n])))
  const wireAt = computed(() => new Map(session.value?.wires.map((id, n) => [id, n])))

  return {
    session,
    frame,
    calm,
    tape,
    rate,
    lost,
    refused,
    doing,
    follow,
    key: computed<Key>(() => calm.value?.key ?? 'off'),
    isLive: computed(() => Math.abs(calm.value?.battery_a ?? 0) > 0.05 || (calm.value?.key ?? 'off') !== 'off'),
    loadAt,
    wireAt,
    /** What each wire carries now, in A along it, and the volts at its far end, null where that floats. */
    wires: computed(() =>
      Object.fromEntries([...wireAt.value].map(([wire, n]) => [wire, { amps: calm.value?.wire_a[n] ?? 0, volts: calm.value?.wire_v[n] ?? null }])),
    ),
    /** The loads that are seen to do something now. */
    on: computed(() => new Set(calm.value?.on)),
    /** What a wire carries now, in A along it; undefined while nothing is live. */
    wireAmps: (wire: string) => (calm.value && session.value ? calm.value.wire_a[session.value.wires.indexOf(wire)] : undefined),
    do: perform,
    time: (body: Schemas['TimeRequest']) =>
      heard(answered(client.POST('/api/builds/{build_id}/bench/time', { ...at(), body }))),
    clear: () => heard(answered(client.POST('/api/builds/{build_id}/bench/clear', at()))),
    keep: (name: string) =>
      heard(answered(client.POST('/api/builds/{build_id}/bench/keep', { ...at(), body: { name } }))),
    openKept: (kept: number, to_s: number | null = null) =>
      heard(answered(client.POST('/api/builds/{build_id}/bench/open', { ...at(), body: { session: kept, to_s } }))),
    dropKept: (session_id: number) =>
      heard(
        answered(
          client.DELETE('/api/builds/{build_id}/bench/kept/{session_id}', {
            params: { path: { build_id: build.value, session_id } },
          }),
        ),
      ),
    play: (script: { actions: Record<string, unknown>[]; ends_s?: number }) =>
      heard(answered(client.POST('/api/builds/{build_id}/bench/script', { ...at(), body: { ends_s: null, ...script } }))),
    script: () => answered(client.GET('/api/builds/{build_id}/bench/script', at())),
    deal: (hard: 'easy' | 'fair' | 'nasty') =>
      heard(answered(client.POST('/api/builds/{build_id}/bench/deal', { ...at(), body: { hard } }))),
    guess: (of: string | null) =>
      heard(answered(client.POST('/api/builds/{build_id}/bench/guess', { ...at(), body: { of } }))),
  }
})
