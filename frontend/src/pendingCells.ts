import { reactive, ref, watch } from 'vue'

/** A cell on its way to the server, or refused by it: what was typed stays in sight. */
export interface PendingCell {
  text: string
  wrong: string | null
  saved: boolean
}

const LONGEST_WAIT_MS = 3000

/** Cells that were typed and are not in the list yet, by key; `stamp` counts their changes. */
export function usePendingCells() {
  const pending = reactive<Record<string, PendingCell>>({})
  const stamp = ref(0)
  watch(pending, () => stamp.value++, { deep: true, flush: 'sync' })

  function forget(which: (one: PendingCell) => boolean): void {
    for (const key of Object.keys(pending)) if (which(pending[key]!)) delete pending[key]
  }

  /** Show these texts until the list has them; `save` answers what is wrong, or nothing. */
  function send(texts: Record<string, string>, save: (done: () => void) => Promise<string | null>): void {
    const keys = Object.keys(texts)
    for (const key of keys) pending[key] = { text: texts[key]!, wrong: null, saved: false }
    const done = () => {
      for (const key of keys) if (pending[key]) pending[key]!.saved = true
      setTimeout(() => forget((one) => one.saved), LONGEST_WAIT_MS)
    }
    void save(done).then((wrong) => {
      if (wrong === null) return done()
      for (const key of keys) if (pending[key]) pending[key]!.wrong = wrong
    })
  }

  return { pending, stamp, forget, send }
}
