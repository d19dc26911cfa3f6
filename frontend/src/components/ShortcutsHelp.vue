<script setup lang="ts">
import { Modal as AModal } from 'ant-design-vue'

const open = defineModel<boolean>('open', { required: true })

const KEYS: [string, string][] = [
  ['Alt + 1 … 9', 'a line of the route card'],
  ['K, then 0 1 2 3', 'key off, accessory, run, crank'],
  ['B', 'bench'],
  ['F', 'findings'],
  ['N', 'new line in Take stock'],
  ['Enter / Esc', 'edit the cell in focus / leave it as it was'],
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
