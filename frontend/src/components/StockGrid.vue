<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, useId, watch } from 'vue'

import { type Block, blockOf, type Cell, fromClipboard, range, toClipboard, within } from '@/grid'
import { type PendingCell, usePendingCells } from '@/pendingCells'

/** A list that takes typing as fast as a spreadsheet; what cells mean is judged by the server. */
export interface GridColumn {
  key: string
  title: string
  unit?: string
  width: number
  /** What typing completes to. */
  options?: string[]
  figure?: boolean
}
export interface GridRow {
  id: string
  cells: Record<string, string>
  /** What stands beside a cell's text in small letters: whose figure it is. */
  marks: Record<string, string>
}
export interface GridGroup {
  title: string
  rows: GridRow[]
}
export interface TypedRow {
  part: string | null
  cells: Record<string, string>
}

const props = defineProps<{
  label: string
  columns: GridColumn[]
  groups: GridGroup[]
  sorted: { key: string; up: boolean } | null
  /** What the slots show: rows are drawn again when one of these is another. */
  stamp: unknown[]
  /** How many columns the slots add, and how wide they are together. */
  extra: number
  extraWidth: number
  save: (label: string, rows: TypedRow[], done: () => void) => Promise<string | null>
}>()
const emit = defineEmits<{ sort: [key: string]; active: [row: string | null] }>()

const ROW_PX = matchMedia('(pointer: coarse)').matches ? 44 : 27
const NEW_ROW: GridRow = { id: '', cells: {}, marks: {} }

const scroller = ref<HTMLElement>()
const table = ref<HTMLTableElement>()
const gridId = useId()
const anchor = ref<Cell>({ row: 0, column: 0 })
const focus = ref<Cell>({ row: 0, column: 0 })
/** Whether the list has the keyboard, and whether it had it before the pointer went down. */
const active = ref(false)
const wasActive = ref(false)
const editing = ref<{ cell: Cell; text: string } | null>(null)
const field = ref<HTMLInputElement[]>([])
const { pending, stamp: pendingStamp, forget, send } = usePendingCells()
watch(
  () => props.groups,
  () => forget((one) => one.saved),
)

const rows = computed(() => [...props.groups.flatMap((group) => group.rows), NEW_ROW])
const items = computed(() => {
  let row = 0
  const headed = props.groups.length > 1 || props.groups[0]?.title
  return [
    ...props.groups.flatMap((group) => [
      ...(headed ? [{ heading: `${group.title} · ${group.rows.length}`, row: -1 }] : []),
      ...group.rows.map(() => ({ heading: '', row: row++ })),
    ]),
    { heading: '', row: row++ },
  ]
})
const itemOfRow = computed(() => {
  const places: number[] = []
  items.value.forEach((item, index) => {
    if (item.row >= 0) places[item.row] = index
  })
  return places
})
const width = computed(() => props.columns.reduce((sum, one) => sum + one.width, props.extraWidth))
const block = computed<Block>(() => blockOf(anchor.value, focus.value))
const several = computed(
  () => block.value.top !== block.value.bottom || block.value.left !== block.value.right,
)

const virtual = useVirtualizer(
  computed(() => ({
    count: items.value.length,
    getScrollElement: () => scroller.value ?? null,
    estimateSize: () => ROW_PX,
    overscan: 8,
    scrollPaddingStart: 32,
  })),
)
const shown = computed(() => virtual.value.getVirtualItems())
const above = computed(() => shown.value[0]?.start ?? 0)
const below = computed(() => virtual.value.getTotalSize() - (shown.value.at(-1)?.end ?? 0))

/** The lines in sight; a line is drawn again only when something of its memo changes. */
const lines = computed(() =>
  shown.value.map((item) => {
    const { heading, row } = items.value[item.index]!
    const data = rows.value[row] ?? NEW_ROW
    const inBlock = several.value && row >= block.value.top && row <= block.value.bottom
    return {
      key: heading || (data.id || `new ${row}`),
      heading,
      row,
      data,
      memo: [
        heading,
        row,
        data,
        focus.value.row === row ? focus.value.column : -1,
        inBlock ? `${block.value.left}-${block.value.right}` : '',
        editing.value?.cell.row === row ? `${editing.value.cell.column} ${editing.value.text}` : '',
        pendingStamp.value,
        props.columns,
        ...props.stamp,
      ],
    }
  }),
)

function pendingAt(row: number, column: number): PendingCell | undefined {
  return pending[keyOf({ row, column })]
}

function classesOf(row: number, column: number): Record<string, boolean | undefined> {
  const waiting = pendingAt(row, column)
  return {
    figure: props.columns[column]!.figure,
    name: column === 0,
    typical: rows.value[row]!.marks[props.columns[column]!.key] === 'typical',
    here: focus.value.row === row && focus.value.column === column,
    chosen: several.value && within(block.value, row, column),
    saving: waiting?.wrong === null && !waiting.saved,
    wrong: !!waiting?.wrong,
  }
}

function keyOf(cell: Cell): string {
  return `${rows.value[cell.row]!.id}:${props.columns[cell.column]!.key}`
}

function textAt(row: number, column: number): string {
  const cell = { row, column }
  const saved = rows.value[row]!.cells[props.columns[column]!.key] ?? ''
  return pending[keyOf(cell)]?.text ?? saved
}

/** Focus stays on the list itself, so that a row scrolled out of sight takes no key with it. */
function go(to: Cell, extend = false): void {
  const cell = {
    row: Math.max(0, Math.min(to.row, rows.value.length - 1)),
    column: Math.max(0, Math.min(to.column, props.columns.length - 1)),
  }
  focus.value = cell
  if (!extend) anchor.value = cell
  emit('active', rows.value[cell.row]!.id || null)
  virtual.value.scrollToIndex(itemOfRow.value[cell.row]!)
  table.value?.focus({ preventScroll: true })
}

async function edit(cell: Cell, text?: string): Promise<void> {
  editing.value = { cell, text: text ?? textAt(cell.row, cell.column) }
  await nextTick()
  const input = field.value[0]
  input?.focus()
  if (text === undefined) input?.select()
}

function leave(): void {
  editing.value = null
  table.value?.focus({ preventScroll: true })
}

/** Take over what was typed, in one cell or in all that are chosen in its column. */
function commit(all = false): void {
  const now = editing.value
  if (!now) return
  editing.value = null
  const text = now.text.trim()
  const chosen = all ? range(block.value.top, block.value.bottom) : [now.cell.row]
  const cells = chosen
    .map((row) => ({ row, column: now.cell.column, text }))
    .filter((cell) => cell.text !== textAt(cell.row, cell.column))
  const title = props.columns[now.cell.column]!.title
  const name = rows.value[now.cell.row]!.cells.name
  const label = all && chosen.length > 1 ? `${title} of ${chosen.length} rows` : `${title} of ${name}`
  set(name ? label : `Add ${text}`, cells)
}

function set(label: string, cells: { row: number; column: number; text: string }[]): void {
  if (!cells.length) return
  const typed = new Map<number, TypedRow>()
  for (const cell of cells) {
    const part = rows.value[cell.row]?.id || null
    const row = typed.get(cell.row) ?? { part, cells: {} }
    row.cells[props.columns[cell.column]!.key] = cell.text
    typed.set(cell.row, row)
  }
  const listed = cells.filter((cell) => rows.value[cell.row])
  const texts = Object.fromEntries(listed.map((cell) => [keyOf(cell), cell.text]))
  send(texts, (done) => props.save(label, [...typed.values()], done))
}

function chosenCells(): string[][] {
  const { top, bottom, left, right } = block.value
  return range(top, bottom).map((row) => range(left, right).map((column) => textAt(row, column)))
}

function copy(event: ClipboardEvent): void {
  if (editing.value) return
  event.preventDefault()
  event.clipboardData?.setData('text/plain', toClipboard(chosenCells()))
}

function paste(event: ClipboardEvent): void {
  if (editing.value) return
  event.preventDefault()
  const pasted = fromClipboard(event.clipboardData?.getData('text/plain') ?? '')
  if (!pasted.length) return
  const { top, left, bottom, right } = block.value
  const one = pasted.length === 1 && pasted[0]!.length === 1
  const tall = one ? bottom - top + 1 : pasted.length
  const wide = one ? right - left + 1 : pasted[0]!.length
  const cells = range(0, tall - 1).flatMap((down) =>
    range(0, Math.min(wide, props.columns.length - left) - 1).map((along) => ({
      row: top + down,
      column: left + along,
      text: (one ? pasted[0]![0]! : (pasted[down]![along] ?? '')).trim(),
    })),
  )
  set(`Paste ${cells.length} ${cells.length === 1 ? 'cell' : 'cells'}`, cells)
  anchor.value = { row: top, column: left }
  const last = Math.min(top + tall - 1, rows.value.length - 1)
  focus.value = { row: last, column: Math.min(left + wide - 1, props.columns.length - 1) }
}

function fillDown(): void {
  const { top, bottom, left, right } = block.value
  const cells = range(top + 1, bottom).flatMap((row) =>
    range(left, right).map((column) => ({ row, column, text: textAt(top, column) })),
  )
  set(`Fill down ${bottom - top} rows`, cells.filter((cell) => rows.value[cell.row]!.id))
}

function clear(): void {
  const { top, bottom, left, right } = block.value
  const cells = range(top, bottom)
    .flatMap((row) => range(left, right).map((column) => ({ row, column, text: '' })))
    .filter((cell) => rows.value[cell.row]!.id && textAt(cell.row, cell.column))
  set(`Clear ${cells.length} cells`, cells)
}

function pressed(event: KeyboardEvent): void {
  if (editing.value) return pressedInField(event)
  const { row, column } = focus.value
  const page = Math.max(Math.floor((scroller.value?.clientHeight ?? 500) / ROW_PX) - 2, 1)
  const chord = event.ctrlKey || event.metaKey
  const moves: Record<string, Cell> = {
    ArrowUp: { row: row - 1, column },
    ArrowDown: { row: row + 1, column },
    ArrowLeft: { row, column: column - 1 },
    ArrowRight: { row, column: column + 1 },
    PageUp: { row: row - page, column },
    PageDown: { row: row + page, column },
    Home: { row: chord ? 0 : row, column: 0 },
    End: { row: chord ? rows.value.length - 2 : row, column: props.columns.length - 1 },
  }
  const move = moves[event.key]
  if (move && !event.altKey) {
    event.preventDefault()
    go(move, event.shiftKey)
  } else if (event.key === 'Enter' || event.key === 'F2') {
    event.preventDefault()
    void edit(focus.value)
  } else if (event.key === 'Delete' || event.key === 'Backspace') {
    event.preventDefault()
    clear()
  } else if (event.key === 'Escape') {
    delete pending[keyOf(focus.value)]
    anchor.value = focus.value
  } else if (chord && event.key.toLowerCase() === 'd') {
    event.preventDefault()
    fillDown()
  } else if (chord && event.key.toLowerCase() === 'a') {
    event.preventDefault()
    anchor.value = { row: 0, column: 0 }
    focus.value = { row: Math.max(rows.value.length - 2, 0), column: props.columns.length - 1 }
  } else if (event.key.length === 1 && !chord && !event.altKey) {
    event.preventDefault()
    event.stopPropagation()
    void edit(focus.value, event.key)
  }
}

function pressedInField(event: KeyboardEvent): void {
  event.stopPropagation()
  const { row, column } = focus.value
  const early = !(event.target instanceof HTMLInputElement)
  if (early && event.key.length === 1 && !event.ctrlKey && !event.metaKey) {
    event.preventDefault()
    editing.value!.text += event.key
  } else if (event.key === 'Escape') {
    event.preventDefault()
    leave()
  } else if (event.key === 'Enter') {
    event.preventDefault()
    commit(event.ctrlKey || event.metaKey)
    go(event.ctrlKey || event.metaKey ? focus.value : { row: row + 1, column })
  } else if (event.key.startsWith('Page')) {
    event.preventDefault()
  } else if (event.key === 'Tab') {
    event.preventDefault()
    commit()
    go({ row, column: column + (event.shiftKey ? -1 : 1) })
  }
}

function clicked(cell: Cell, event: MouseEvent): void {
  const again = focus.value.row === cell.row && focus.value.column === cell.column
  if (again && wasActive.value && !event.shiftKey && !several.value) {
    void edit(cell)
  } else {
    go(cell, event.shiftKey)
  }
}

function says(row: number, column: number): string {
  const name = textAt(row, 0) || (row === rows.value.length - 1 ? 'new row' : 'row')
  const title = props.columns[column]!.title
  return column === 0 ? `${name}, name` : `${textAt(row, column) || 'empty'}, ${title} of ${name}`
}

defineExpose({
  /** Put the cursor on the line for a new row. */
  startNew: () => go({ row: rows.value.length - 1, column: 0 }),
})
</script>

<template>
  <div ref="scroller" class="scroller" @copy="copy" @paste="paste">
    <table
      ref="table"
      role="grid"
      tabindex="0"
      :style="{ width: `${width}px` }"
      :aria-label="label"
      :aria-rowcount="rows.length"
      :aria-activedescendant="`${gridId}-${focus.row}-${focus.column}`"
      @keydown="pressed"
      @focus="active = true"
      @blur="active = false"
    >
      <thead>
        <tr>
          <th
            v-for="column in columns"
            :key="column.key"
            scope="col"
            :class="{ figure: column.figure }"
            :style="{ width: `${column.width}px` }"
            :aria-sort="sorted?.key === column.key ? (sorted.up ? 'ascending' : 'descending') : 'none'"
          >
            <button type="button" tabindex="-1" :title="`Sort by ${column.title}`" @click="emit('sort', column.key)">
              {{ column.title }}<template v-if="column.unit">, {{ column.unit }}</template>
              <span aria-hidden="true">{{ sorted?.key === column.key ? (sorted.up ? '▴' : '▾') : '' }}</span>
            </button>
          </th>
          <slot name="head" />
        </tr>
      </thead>
      <tbody>
        <tr v-if="above > 0" aria-hidden="true" :style="{ height: `${above}px` }"></tr>
        <tr
          v-for="line in lines"
          :key="line.key"
          v-memo="line.memo"
          :class="{ heading: line.heading, fresh: !line.heading && !line.data.id }"
        >
          <th v-if="line.heading" :colspan="columns.length + extra" scope="rowgroup">{{ line.heading }}</th>
          <template v-else>
            <td
              v-for="(column, at) in columns"
              :id="`${gridId}-${line.row}-${at}`"
              :key="column.key"
              role="gridcell"
              :aria-label="says(line.row, at)"
              :aria-selected="within(block, line.row, at)"
              :title="pendingAt(line.row, at)?.wrong ?? undefined"
              :class="classesOf(line.row, at)"
              @mousedown="wasActive = active"
              @click="clicked({ row: line.row, column: at }, $event)"
              @dblclick="edit({ row: line.row, column: at })"
            >
              <input
                v-if="editing?.cell.row === line.row && editing.cell.column === at"
                ref="field"
                v-model="editing.text"
                :aria-label="column.title"
                :list="column.options ? `grid-${column.key}` : undefined"
                autocomplete="off"
                @blur="commit()"
                @click.stop
                @dblclick.stop
              />
              <span v-else-if="!line.data.id && at === 0 && !textAt(line.row, 0)" class="hint">
                type or paste here to add rows
              </span>
              <template v-else>
                {{ textAt(line.row, at) }}
                <small v-if="line.data.marks[column.key]">{{ line.data.marks[column.key] }}</small>
              </template>
            </td>
            <slot :id="line.data.id" name="row" />
          </template>
        </tr>
        <tr v-if="below > 0" aria-hidden="true" :style="{ height: `${below}px` }"></tr>
      </tbody>
    </table>
    <datalist v-for="column in columns.filter((one) => one.options)" :id="`grid-${column.key}`" :key="column.key">
      <option v-for="option in column.options" :key="option" :value="option"></option>
    </datalist>
  </div>
</template>

<style scoped src="@/stock-grid.css"></style>
