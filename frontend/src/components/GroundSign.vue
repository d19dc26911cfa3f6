<script setup lang="ts">
/** The sign of a ground: three bars, each shorter than the one above (IEC 60617). */
</script>

<template>
  <svg viewBox="0 0 12 12" width="12" height="12" aria-hidden="true">
    <path d="M6 0v4M1 4h10M3 7h6M5 10h2" fill="none" stroke="currentColor" stroke-width="1.4" />
  </svg>
</template>
