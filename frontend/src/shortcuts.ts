import { onBeforeUnmount, onMounted } from 'vue'

/** What a key press means; the names are those of the help list. */
export interface Shortcuts {
  stage: (number: number) => void
  key: (position: number) => void
  /** The key that cranks is let go. */
  letGo: () => void
  bench: () => void
  findings: () => void
  newLine: () => void
  find: () => void
  undo: () => void
  redo: () => void
  help: () => void
}

/** Listen for shortcuts while mounted; keys typed into a field stay with the field. */
export function useShortcuts(shortcuts: Shortcuts): void {
  let afterK = false

  function pressed(event: KeyboardEvent): void {
    const chord = event.ctrlKey || event.metaKey
    if (event.altKey && /^Digit[0-9]$/.test(event.code)) {
      event.preventDefault()
      shortcuts.stage(Number(event.code.slice(5)) || 10)
      return
    }
    if (inField(event.target)) return
    const name = event.key.toLowerCase()
    if (chord && name === 'z') {
      event.preventDefault()
      if (event.shiftKey) shortcuts.redo()
      else shortcuts.undo()
      return
    }
    if (chord || event.altKey) return
    if (afterK && /^[0-3]$/.test(name) && !event.repeat) shortcuts.key(Number(name))
    afterK = name === 'k'
    const action = { b: shortcuts.bench, f: shortcuts.findings, n: shortcuts.newLine, '/': shortcuts.find, '?': shortcuts.help }[name]
    if (action) {
      event.preventDefault()
      action()
    }
  }

  function released(event: KeyboardEvent): void {
    if (event.key === '3') shortcuts.letGo()
  }

  onMounted(() => {
    window.addEventListener('keydown', pressed)
    window.addEventListener('keyup', released)
  })
  onBeforeUnmount(() => {
    window.removeEventListener('keydown', pressed)
    window.removeEventListener('keyup', released)
  })
}

function inField(target: EventTarget | null): boolean {
  return target instanceof HTMLElement && target.closest('input, textarea, select, [role=dialog]') !== null
}
