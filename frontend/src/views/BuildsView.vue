<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Button as AButton } from 'ant-design-vue'
import { ref } from 'vue'
import { useRouter } from 'vue-router'

import { Refused } from '@/api/client'
import { answered, client } from '@/api/client'
import { useBuilds } from '@/api/queries'
import SafetyLine from '@/components/SafetyLine.vue'
import { moment } from '@/format'

const router = useRouter()
const queries = useQueryClient()
const { data: builds, error } = useBuilds()
const chooser = ref<HTMLInputElement>()
const refused = ref<string | null>(null)
const reading = ref(false)

async function openDocument(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  reading.value = true
  refused.value = null
  try {
    const created = await answered(
      client.POST('/api/builds', {
        body: file as never,
        bodySerializer: (body: unknown) => body as Blob,
        headers: { 'Content-Type': 'application/json' },
      }),
    )
    await queries.invalidateQueries({ queryKey: ['builds'] })
    await router.push({ name: 'stock', params: { id: created.id } })
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = `${file.name} was not opened. ${problem.message}`
  } finally {
    reading.value = false
    input.value = ''
  }
}
</script>

<template>
  <div class="page">
    <header class="bar">OILSTONE</header>
    <main>
      <h1>Builds</h1>
      <p class="quiet">One build is one car’s electrical design. Everything stays on this machine.</p>
      <p v-if="error" class="refusal" role="alert">{{ error.message }}</p>
      <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
      <table v-if="builds?.length" class="sheet">
        <thead>
          <tr>
            <th scope="col">Build</th>
            <th scope="col" class="figure">Loads</th>
            <th scope="col" class="figure">Circuits</th>
            <th scope="col">Last changed</th>
            <th scope="col">Document</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in builds" :key="row.id">
            <td>
              <RouterLink class="name" :to="{ name: 'stock', params: { id: row.id } }">
                {{ row.name }}
              </RouterLink>
            </td>
            <td class="figure">{{ row.loads }}</td>
            <td class="figure">{{ row.circuits }}</td>
            <td>{{ moment(row.changed) }}</td>
            <td><a :href="`/api/builds/${row.id}/document`" download>Export as JSON</a></td>
          </tr>
        </tbody>
      </table>
      <p v-else-if="builds" class="empty sheet">
        No builds yet. Start from a kind of car, or open a build’s JSON document.
      </p>
      <p class="actions">
        <input
          ref="chooser"
          class="visually-hidden"
          type="file"
          accept=".json,application/json"
          aria-label="Build document"
          tabindex="-1"
          @change="openDocument"
        />
        <AButton type="primary" @click="router.push({ name: 'start' })">
          Start from a kind of car…
        </AButton>
        <AButton :loading="reading" @click="chooser?.click()">Open a build’s document…</AButton>
        <span class="quiet">A JSON file as exported here; it is read whole or not at all.</span>
      </p>
    </main>
    <div class="foot"><SafetyLine /></div>
  </div>
</template>

<style scoped>
.page {
  display: flex;
  min-height: 100%;
  flex-direction: column;
}

.bar {
  padding: 10px 14px;
  background: var(--bar);
  color: var(--bar-ink);
  font-family: var(--heading);
  font-size: 22px;
  font-weight: 600;
  letter-spacing: 0.04em;
}

main {
  width: 100%;
  max-width: 860px;
  flex: 1;
  margin: 0 auto;
  padding: 28px 16px;
}

td,
th {
  padding: 8px 10px;
}

.name {
  font-family: var(--heading);
  font-size: 18px;
  font-weight: 600;
}

.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
  margin-top: 16px;
}

.foot {
  display: flex;
  padding: 6px 14px;
  border-top: 1px solid var(--rule);
}
</style>
