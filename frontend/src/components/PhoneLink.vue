<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { answered, client, Refused, type Schemas } from '@/api/client'

const props = defineProps<{ to: string }>()

const phone = ref<Schemas['PhoneView']>()
const problem = ref('')
const busy = ref(false)
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
  <div class="phone">
    <p>
      A phone on the same network can show the steps and record what you read, beside the car. It reads and records; it
      changes nothing else.
    </p>
    <button v-if="phone?.on" type="button" :disabled="busy" @click="turn(false)">Let no phone in any more</button>
    <button v-else type="button" :disabled="busy" @click="turn(true)">Let a phone in</button>
    <p v-if="problem" class="refusal" role="alert">{{ problem }}</p>
    <template v-if="phone?.on && code">
      <p class="code"><img :src="code" alt="Square code that opens this on the phone" /></p>
      <p class="quiet">Point the phone’s camera at it, or type the address:</p>
      <p class="address">{{ phone.link }}</p>
      <h3>The phone will warn once</h3>
      <p>
        The way is encrypted with a certificate that this machine made itself, so the phone does not know it. Go on past
        the warning: nothing leaves your own network.
      </p>
      <h3>To use it while this machine sleeps</h3>
      <p>
        With the page left open, what you record waits on the phone until this machine answers. To reload it or start it
        from the phone’s screen meanwhile, let the phone trust the
        <a href="/api/phone/certificate">certificate of this machine</a> first, then choose “add to home screen”. It is good for
        addresses of private networks alone.
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

button {
  min-height: 36px;
  padding: 4px 14px;
  border: 1px solid var(--copper);
  border-radius: 3px;
  background: none;
  color: var(--copper);
  cursor: pointer;
  font: inherit;
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
