<template>
  <footer class="line">
    <span aria-hidden="true">⚠</span> Planning aid, not a certificate. Battery negative off first and
    on last. Local codes and licensed people decide. Above 60 V d.c. hands off.
  </footer>
</template>

<style scoped>
.line {
  flex: 1;
  overflow: hidden;
  color: var(--quiet);
  font-size: 12.5px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
