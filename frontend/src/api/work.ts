/** Requests that take long: how far each is, and a way to stop it. */

import type { Middleware } from 'openapi-fetch'
import { reactive } from 'vue'

export interface Work {
  name: string
  doing: string
  share: number
  seconds: number
  stopping: boolean
}

const SHOWN_AFTER_MS = 1000
const ASKED_EVERY_MS = 500
const begun = new Map<string, Work>()
let count = 0

/** The requests that have been at work for a second or more, the oldest first. */
export const longWork = reactive<Work[]>([])

/** Names each request to the server, and watches those that take long. */
export const watching: Middleware = {
  onRequest({ request }) {
    const name = `${Date.now().toString(36)}-${count++}-${Math.random().toString(36).slice(2)}`
    request.headers.set('X-Work', name)
    begun.set(name, { name, doing: 'Working', share: 0, seconds: 0, stopping: false })
    window.setTimeout(() => show(name), SHOWN_AFTER_MS)
    return request
  },
  onResponse({ request }) {
    end(request)
  },
  onError({ request }) {
    end(request)
  },
}

/** Ask the server to stop a request; it changes nothing then. */
export async function stop(work: Work): Promise<void> {
  work.stopping = true
  await fetch(`/api/work/${work.name}`, { method: 'DELETE' }).catch(() => undefined)
}

function show(name: string): void {
  const work = begun.get(name)
  if (!work) return
  longWork.push(work)
  void ask(name)
}

async function ask(name: string): Promise<void> {
  const shown = longWork.find((row) => row.name === name)
  if (!shown) return
  const answer = await fetch(`/api/work/${name}`).catch(() => undefined)
  const at = answer?.ok ? ((await answer.json()) as Pick<Work, 'doing' | 'share' | 'seconds'> | null) : null
  if (at) Object.assign(shown, { doing: at.doing, share: at.share, seconds: at.seconds })
  window.setTimeout(() => void ask(name), ASKED_EVERY_MS)
}

function end(request: Request): void {
  const name = request.headers.get('X-Work') ?? ''
  begun.delete(name)
  const at = longWork.findIndex((row) => row.name === name)
  if (at >= 0) longWork.splice(at, 1)
}
