<script setup lang="ts">
import { Button as AButton, Modal as AModal } from 'ant-design-vue'

const emit = defineEmits<{ read: [] }>()
</script>

<template>
  <AModal
    open
    title="Before you start: take care"
    :closable="false"
    :mask-closable="false"
    :keyboard="false"
    :width="620"
  >
    <p>
      Oilstone is a planning aid. It does not certify a car. What it computes is only as good as the
      lengths, loads and parts you give it.
    </p>
    <ul>
      <li>Battery negative comes off first and goes on last.</li>
      <li>
        A fuse within 300 mm of the source; until it is there, sleeve and support the wire.
      </li>
      <li>Rings and watches off. Eye protection, ventilation and no sparks near a battery.</li>
      <li>An extinguisher at hand. Fuel lines and airbags kept away from test current.</li>
      <li>Never probe airbag wiring.</li>
      <li>Lamps and resistors get hot. A fan or the starter can move at any moment.</li>
      <li>A jacked car stands on stands.</li>
      <li>Above 60 V d.c. hands off: that is for qualified people.</li>
    </ul>
    <p>
      Road lamps, their colours, interlocks and inspections follow your local law. Where it or a
      licensed person says otherwise, they are right and this program is not.
    </p>
    <template #footer>
      <AButton type="primary" autofocus @click="emit('read')">I have read this</AButton>
    </template>
  </AModal>
</template>
