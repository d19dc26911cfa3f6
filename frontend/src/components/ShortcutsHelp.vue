<script setup lang="ts">
import { Modal as AModal } from 'ant-design-vue'

const open = defineModel<boolean>('open', { required: true })

const KEYS: [string, string][] = [
  ['Alt + 1 … 9, 0', 'a line of the route card'],
  ['K, then 0 1 2 3', 'key off, accessory, run, crank'],
  ['B', 'bench'],
  ['F', 'findings'],
  ['N', 'new line in Take stock'],
  ['/', 'find a wire, label, part, terminal or circuit'],
  ['Arrows, Shift + arrows', 'move in a list / choose several cells'],
  ['Enter, or just typing', 'edit the cell in focus; Esc leaves it as it was'],
  ['Ctrl + Enter', 'set all chosen cells to what was typed'],
  ['Ctrl + C, Ctrl + V', 'copy and paste cells, from and to a spreadsheet'],
  ['Ctrl + D, Delete', 'fill down / empty the chosen cells'],
  ['Arrows on the plan', 'move a place; Shift moves it finely, J joins it by a run'],
  ['Ctrl + Z', 'undo'],
  ['Ctrl + Shift + Z', 'redo'],
  ['?', 'this list'],
]
</script>

<template>
  <AModal v-model:open="open" title="Keys" :footer="null" :width="460">
    <table>
      <tbody>
        <tr v-for="[key, what] in KEYS" :key="key">
          <th scope="row">{{ key }}</th>
          <td>{{ what }}</td>
        </tr>
      </tbody>
    </table>
  </AModal>
</template>
