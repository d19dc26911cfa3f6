import { useQueryClient } from '@tanstack/vue-query'
import { type Ref, ref } from 'vue'

import { answered, client, type Operation, Refused, type Schemas } from './client'

type Answer = Schemas['EditAnswer']

/** An edit that was refused because the build had changed; it can be tried again on the newer one. */
export interface Conflict {
  label: string
  since: Schemas['PastEdit'][]
  again: () => Promise<boolean>
}

export const saving = ref(false)
export const conflict = ref<Conflict | null>(null)
export const refusal = ref<string | null>(null)
/** Edits after which what was refused can be asked for again. */
export const waysOut = ref<Schemas['MendView'][]>([])

let last: Promise<boolean> = Promise.resolve(true)

/**
 * The one door on this side: every change of a build goes through these functions.
 * Each answers true when it was saved; otherwise `refusal` or `conflict` say why and nothing is lost.
 */
export function useEdits(id: Ref<number>) {
  const queries = useQueryClient()

  function base(): number {
    return queries.getQueryData<Schemas['BuildView']>(['build', id.value])?.revision ?? 0
  }

  /** One edit after the other: a quick hand is never in conflict with itself. */
  function run(label: string, request: () => Promise<Answer>, done?: () => void): Promise<boolean> {
    const mine = last.then(() => attempt(label, request, done))
    last = mine.catch(() => false)
    return mine
  }

  async function attempt(
    label: string,
    request: () => Promise<Answer>,
    done?: () => void,
  ): Promise<boolean> {
    saving.value = true
    refusal.value = null
    waysOut.value = []
    conflict.value = null
    try {
      const answer = await request()
      queries.setQueryData(['results', id.value, answer.revision], answer.results)
      await queries.invalidateQueries({ queryKey: ['build', id.value] })
      done?.()
      return true
    } catch (problem) {
      if (!(problem instanceof Refused)) throw problem
      const stale = problem.conflict
      if (stale) {
        const again = () => run(label, request, done)
        conflict.value = { label, since: stale.since, again }
        await queries.invalidateQueries({ queryKey: ['build', id.value] })
      } else {
        refusal.value = problem.message
        waysOut.value = problem.problem.mends ?? []
      }
      return false
    } finally {
      saving.value = false
    }
  }

  /**
   * What an edit would answer; throws Refused, and brings a stale screen up to date. `changed` is told
   * what it changes as soon as that is known: sizing it takes longer.
   */
  async function preview(
    label: string,
    operations: Operation[],
    changed?: (changes: Answer['changes']) => void,
  ): Promise<Answer> {
    const asked = { ...path(), body: { base: base(), label, operations } }
    try {
      if (changed) changed(await answered(client.POST('/api/builds/{build_id}/changes', asked)))
      return await answered(client.POST('/api/builds/{build_id}/preview', asked))
    } catch (problem) {
      if (problem instanceof Refused && problem.conflict) {
        await queries.invalidateQueries({ queryKey: ['build', id.value] })
      }
      throw problem
    }
  }

  const path = () => ({ params: { path: { build_id: id.value } } })

  return {
    /** Save operations as one edit; `done` runs once it is saved, at once or after a conflict. */
    edit: (label: string, operations: Operation[], done?: () => void) =>
      run(
        label,
        () =>
          answered(
            client.POST('/api/builds/{build_id}/edits', {
              ...path(),
              body: { base: base(), label, operations },
            }),
          ),
        done,
      ),
    preview,
    undo: () =>
      run('Undo', () =>
        answered(client.POST('/api/builds/{build_id}/undo', { ...path(), body: { base: base() } })),
      ),
    /** What the build was at a revision, as an edit of its own. */
    back: (revision: number) =>
      run(`Back to revision ${revision}`, () =>
        answered(
          client.POST('/api/builds/{build_id}/history/{revision}/back', {
            params: { path: { build_id: id.value, revision } },
            body: { base: base() },
          }),
        ),
      ),
    redo: () =>
      run('Redo', () =>
        answered(client.POST('/api/builds/{build_id}/redo', { ...path(), body: { base: base() } })),
      ),
  }
}
