<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { Button as AButton } from 'ant-design-vue'
import { computed, nextTick, ref } from 'vue'
import { useRouter } from 'vue-router'

import { answered, client, Refused, type Schemas } from '@/api/client'
import { useBuilds, useCopies, useDeletedBuilds } from '@/api/queries'
import PlainBar from '@/components/PlainBar.vue'
import SafetyLine from '@/components/SafetyLine.vue'
import { fixed, moment } from '@/format'
import { useWalk } from '@/stores/walk'

type Summary = Schemas['BuildSummary']

const router = useRouter()
const queries = useQueryClient()
const { data: builds, error, isFetching, refetch } = useBuilds()
const deletedAsked = useDeletedBuilds()
const deleted = deletedAsked.data
const chooser = ref<HTMLInputElement>()
const refused = ref<string | null>(null)
const said = ref<string | null>(null)
const reading = ref(false)
const anyDeleted = computed(() => (deleted.value?.length ?? 0) > 0)

/** Do it, say what was done, and show the lists anew; a refusal is shown in its own words. */
async function carryOut(task: () => Promise<string | null>): Promise<void> {
  refused.value = null
  said.value = null
  try {
    said.value = await task()
    await queries.invalidateQueries({ queryKey: ['builds'] })
  } catch (problem) {
    if (!(problem instanceof Refused)) throw problem
    refused.value = problem.message
  }
}

/** Show the lists anew and go to this button: the one that was pressed is gone with its row. */
async function focusLater(label: string): Promise<void> {
  await queries.invalidateQueries({ queryKey: ['builds'] })
  await nextTick()
  const buttons = [...document.querySelectorAll<HTMLElement>('button[aria-label]')]
  buttons.find((button) => button.getAttribute('aria-label') === label)?.focus()
}

const path = (row: Summary) => ({ params: { path: { build_id: row.id } } })

const copy = (row: Summary) =>
  carryOut(async () => {
    await answered(client.POST('/api/builds/{build_id}/copies', path(row)))
    return `${row.name} has a copy, with its history, proofs and photos.`
  })

const remove = (row: Summary) =>
  carryOut(async () => {
    await answered(client.DELETE('/api/builds/{build_id}', path(row)))
    await focusLater(`Bring ${row.name} back`)
    return `${row.name} is deleted. It can be brought back below for 30 days.`
  })

const bringBack = (row: Summary) =>
  carryOut(async () => {
    await answered(client.POST('/api/builds/{build_id}/bring-back', path(row)))
    await focusLater(`Delete ${row.name}`)
    return `${row.name} is back.`
  })

const copiesAsked = useCopies()
const copies = copiesAsked.data
/** What would bring something back, and did not come while the builds did. */
const notListed = computed(() =>
  [
    { what: 'Deleted builds', asked: deletedAsked },
    { what: 'Copies of all data', asked: copiesAsked },
  ]
    .filter(({ asked }) => asked.error.value && !asked.data.value && !error.value)
    .map(({ what, asked }) => ({ what, why: asked.error.value!.message, again: asked.refetch })),
)
const doubted = ref('')
const takeBack = (copy: Schemas['Copy']) =>
  carryOut(async () => {
    await answered(client.POST('/api/copies/{name}/take-back', { params: { path: { name: copy.name } } }))
    queries.removeQueries({ predicate: (query) => query.queryKey[0] !== 'builds' })
    doubted.value = ''
    return `All builds are as they were on ${moment(copy.taken)}. What was there before is a copy itself, the first below.`
  })

const walk = useWalk()
const walkRound = (row: Summary) => router.push(walk.goTo(row.id, 0)!)

function created(file: File): Promise<Schemas['Created']> {
  if (file.name.toLowerCase().endsWith('.zip')) {
    const form = new FormData()
    form.append('file', file)
    return answered(
      client.POST('/api/archives', { body: form as never, bodySerializer: (body) => body as never }),
    )
  }
  return answered(
    client.POST('/api/builds', {
      body: file as never,
      bodySerializer: (body: unknown) => body as Blob,
      headers: { 'Content-Type': 'application/json' },
    }),
  )
}

async function open(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  reading.value = true
  await carryOut(async () => {
    const { id } = await created(file)
    await router.push({ name: 'stock', params: { id } })
    return null
  })
  if (refused.value) refused.value = `${file.name} was not opened. ${refused.value}`
  reading.value = false
  input.value = ''
}
</script>

<template>
  <div class="page">
    <PlainBar />
    <main>
      <h1>Builds</h1>
      <p class="quiet">One build is one car’s electrical design. Everything stays on this machine.</p>
      <div v-if="error" class="refusal" role="alert">
        <p>{{ builds ? 'The list may have changed meanwhile.' : 'The builds cannot be listed.' }} {{ error.message }}</p>
        <AButton :loading="isFetching" @click="refetch()">Try again</AButton>
      </div>
      <p v-if="refused" class="refusal" role="alert">{{ refused }}</p>
      <p v-if="said" class="said sheet" role="status">{{ said }}</p>
      <table v-if="builds?.length" class="sheet">
        <thead>
          <tr>
            <th scope="col">Build</th>
            <th scope="col" class="figure">Loads</th>
            <th scope="col" class="figure">Circuits</th>
            <th scope="col">Last changed</th>
            <th scope="col">Keep a file</th>
            <th scope="col"><span class="visually-hidden">More</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in builds" :key="row.id">
            <td>
              <RouterLink class="name" :to="{ name: 'stock', params: { id: row.id } }">
                {{ row.name }}
              </RouterLink>
            </td>
            <td class="figure" data-of="loads">{{ row.loads }}</td>
            <td class="figure" data-of="circuits">{{ row.circuits }}</td>
            <td>{{ moment(row.changed) }}</td>
            <td class="files">
              <a
                :href="`/api/builds/${row.id}/archive`"
                download
                title="Design, photos, proofs and history in one ZIP file"
                >Everything</a
              >
              <a
                :href="`/api/builds/${row.id}/document`"
                download
                title="The design alone, as an open JSON document"
                >Design as JSON</a
              >
            </td>
            <td class="acts">
              <AButton size="small" :aria-label="`Copy ${row.name}`" @click="copy(row)">Copy</AButton>
              <AButton size="small" :aria-label="`Delete ${row.name}`" @click="remove(row)">
                Delete
              </AButton>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-else-if="builds" class="empty sheet">
        No builds yet. Start from a kind of car, or open the file of a build.
      </p>
      <p v-else-if="!error" class="empty sheet" role="status">Looking for your builds…</p>
      <p class="actions">
        <input
          ref="chooser"
          class="visually-hidden"
          type="file"
          accept=".json,.zip,application/json,application/zip"
          aria-label="File of a build"
          tabindex="-1"
          @change="open"
        />
        <AButton type="primary" @click="router.push({ name: 'start' })">
          Start from a kind of car…
        </AButton>
        <AButton :loading="reading" @click="chooser?.click()">Open the file of a build…</AButton>
        <AButton v-if="builds?.length" @click="walkRound(builds[0]!)">A short walk through {{ builds[0]!.name }}</AButton>
        <span class="quiet">A JSON or ZIP file as kept from here; it is read whole or not at all.</span>
      </p>
      <div v-for="row in notListed" :key="row.what" class="refusal" role="alert">
        <p>{{ row.what }} cannot be listed. {{ row.why }}</p>
        <AButton size="small" @click="row.again()">Try again</AButton>
      </div>
      <section v-if="anyDeleted" aria-labelledby="deleted">
        <h2 id="deleted">Deleted</h2>
        <table class="sheet">
          <thead>
            <tr>
              <th scope="col">Build</th>
              <th scope="col" class="figure">Loads</th>
              <th scope="col">Deleted</th>
              <th scope="col">Gone for good</th>
              <th scope="col"><span class="visually-hidden">More</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in deleted" :key="row.id">
              <td>{{ row.name }}</td>
              <td class="figure" data-of="loads">{{ row.loads }}</td>
              <td>{{ moment(row.deleted!) }}</td>
              <td data-of="gone for good">{{ moment(row.gone_at!) }}</td>
              <td class="acts">
                <AButton size="small" :aria-label="`Bring ${row.name} back`" @click="bringBack(row)">
                  Bring back
                </AButton>
              </td>
            </tr>
          </tbody>
        </table>
      </section>
      <details v-if="copies?.length" class="copies">
        <summary>Copies of everything, taken by themselves</summary>
        <p class="quiet">All data is copied each day that Oilstone runs and before each change of its tables; the last {{ copies.length > 1 ? `${copies.length} are` : 'one is' }} here. Taking one back takes all builds back to that moment.</p>
        <table class="sheet">
          <thead>
            <tr>
              <th scope="col">Taken</th>
              <th scope="col">Why</th>
              <th scope="col">Builds</th>
              <th scope="col" class="figure">MB</th>
              <th scope="col"><span class="visually-hidden">More</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="row in copies" :key="row.name">
              <td>{{ moment(row.taken) }}</td>
              <td>{{ row.why.replaceAll('-', ' ') }}</td>
              <td>{{ row.builds.join(', ') }}</td>
              <td class="figure" data-of="MB">{{ fixed(row.size_mb, 1) }}</td>
              <td class="acts">
                <template v-if="doubted === row.name">
                  <AButton size="small" danger @click="takeBack(row)">Take all builds back to then</AButton>
                  <AButton size="small" @click="doubted = ''">Leave it</AButton>
                </template>
                <AButton v-else size="small" :aria-label="`Take back the copy of ${moment(row.taken)}`" @click="doubted = row.name">Take back…</AButton>
              </td>
            </tr>
          </tbody>
        </table>
      </details>
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

main {
  width: 100%;
  max-width: 980px;
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

.said {
  padding: 8px 12px;
  border-left: 4px solid var(--moss);
}

.refusal {
  margin-bottom: 8px;
}

.files,
.acts {
  white-space: nowrap;
}

.files a + a,
.acts .ant-btn + .ant-btn {
  margin-left: 10px;
}

.acts {
  text-align: right;
}

.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
  margin-top: 16px;
}

section {
  margin-top: 28px;
}

.copies {
  margin-top: 28px;
}

.copies summary {
  cursor: pointer;
  font-family: var(--heading);
  font-size: 18px;
  font-weight: 600;
}

section h2 {
  margin-bottom: 6px;
}

.foot {
  display: flex;
  padding: 6px 14px;
  border-top: 1px solid var(--rule);
}

@media (max-width: 700px) {
  thead {
    display: none;
  }

  tbody tr {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 14px;
    align-items: center;
    padding: 10px;
    border-bottom: 1px solid var(--rule);
  }

  td,
  td.acts {
    padding: 0;
    border: 0;
    text-align: left;
  }

  td:first-child {
    flex-basis: 100%;
  }

  td[data-of]::after {
    color: var(--quiet);
    content: ' ' attr(data-of);
  }
}
</style>
