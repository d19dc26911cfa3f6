<script setup lang="ts">
import { Button as AButton } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'

import { answered, client, Refused, type Schemas } from '@/api/client'

const props = defineProps<{ to: string }>()

const phone = ref<Schemas['PhoneView']>()
const problem = ref('')
const busy = ref(false)
/** Whether this phone starts without the machine that let it in. */
const keeps = ref(Boolean(navigator.serviceWorker?.controller))
navigator.serviceWorker?.addEventListener('controllerchange', () => (keeps.value = true))
const code = computed(() => (phone.value?.code ? `data:image/svg+xml;utf8,${encodeURIComponent(phone.value.code)}` : ''))

async function ask(request: () => Promise<Schemas['PhoneView']>): Promise<void> {
  busy.value = true
  try {
    phone.value = await request()
    problem.value = ''
  } catch (refusal) {
    if (!(refusal instanceof Refused)) throw refusal
    problem.value = refusal.message
  } finally {
    busy.value = false
  }
}

const turn = (on: boolean) => ask(() => answered(client.PUT('/api/phone', { body: { on, to: props.to } })))

watch(
  () => props.to,
  (to) => ask(() => answered(client.GET('/api/phone', { params: { query: { to } } }))),
  { immediate: true },
)
</script>

<template>
  <div v-if="phone?.through" class="phone">
    <p v-if="keeps">
      This phone keeps the steps: it starts and reloads without the machine that let it in, and sends what you record
      when that answers again. “Add to home screen” in the browser’s menu puts it beside your other programs.
    </p>
    <template v-else>
      <p>
        With the page left open, what you record waits here until the machine that let this phone in answers. To reload
        it or start it meanwhile, let this phone trust the certificate of that machine, then open this page again.
      </p>
      <p><a href="/api/phone/certificate">The certificate</a>: it is good for addresses of private networks alone.</p>
    </template>
  </div>
  <div v-else class="phone">
    <p>
      A phone on the same network can show the steps and record what you read, beside the car. It reads and records; it
      changes nothing else.
    </p>
    <AButton v-if="phone?.on" :disabled="busy" @click="turn(false)">Let no phone in any more</AButton>
    <AButton v-else type="primary" :disabled="busy || !phone" @click="turn(true)">Let a phone in</AButton>
    <p v-if="problem" class="refusal" role="alert">{{ problem }}</p>
    <template v-if="phone?.on && code">
      <p class="code"><img :src="code" alt="Square code that opens this on the phone" /></p>
      <p class="quiet">Point the phone’s camera at it, or type the address:</p>
      <p class="address">{{ phone.link }}</p>
      <h3>The phone will warn once</h3>
      <p>
        The way is encrypted with a certificate that this machine made itself, so the phone does not know it. Go on past
        the warning: nothing leaves your own network. How it works without this machine stands on the phone, under
        <b>Phone</b>.
      </p>
      <h3>Who gets in</h3>
      <p>Whoever has this code, until you let none in any more or stop Oilstone. On a network that is not yours, let none in.</p>
    </template>
  </div>
</template>

<style scoped>
.phone {
  padding: 4px 12px 16px;
}

h3 {
  margin: 14px 0 2px;
  font-size: 15px;
}

.code img {
  width: 100%;
  max-width: 246px;
  padding: 6px;
  background: #fff;
}

.address {
  overflow-wrap: anywhere;
  user-select: all;
}
</style>
