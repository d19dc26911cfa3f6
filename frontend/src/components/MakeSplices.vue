<script setup lang="ts">
import type { Schemas } from '@/api/client'
import { fixed } from '@/format'

/** What is joined in the loom: where, which wires, what closes over them, and the tail into a contact that takes fewer. */
defineProps<{ make: Schemas['MakeView'] }>()
</script>

<template>
  <p class="list-bar quiet">
    A contact takes two wires that its crimp closes over, and one behind a seal. More are joined before it, each joint a little farther on than the last so that the loom has no lump, and a tail goes into the contact.
  </p>
  <div class="sheet list-scrolls">
    <table>
      <caption class="visually-hidden">What is joined in the loom</caption>
      <thead>
        <tr>
          <th scope="col">Splice</th>
          <th scope="col">Wires</th>
          <th scope="col" class="figure">Barrel mm²</th>
          <th scope="col">Tail</th>
          <th scope="col" class="figure">Tail mm</th>
          <th scope="col">Tail ends in</th>
          <th scope="col">Joined by</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in make.workshop.splices" :key="row.id">
          <th scope="row">{{ row.name }}<small>{{ row.place }}</small></th>
          <td class="wires"><span v-for="label in row.labels" :key="label">{{ label }}</span></td>
          <td class="figure">{{ row.barrel_mm2 }}</td>
          <td class="kind">{{ row.tail ? `${row.tail.size} ${row.tail.colour}` : '' }}</td>
          <td class="figure">{{ row.tail ? fixed(row.tail.length_m * 1000, 0) : '' }}</td>
          <td>{{ row.tail ? `${row.tail.ends_in}, strip ${row.tail.strip_mm} mm${row.tail.sealed ? ', seal on first' : ''}` : '' }}</td>
          <td>{{ row.joint }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="!make.workshop.splices.length" class="empty">No wires are joined in the loom: every contact takes what ends on it.</p>
  </div>
</template>

<style scoped>
th small {
  display: block;
  color: var(--quiet);
  font-weight: 400;
}

.wires span {
  display: inline-block;
  margin-right: 12px;
}

.wires span,
.kind {
  white-space: nowrap;
}
</style>
