import { onBeforeUnmount, type Ref, ref, watch } from 'vue'

/** The size of an element as it changes. */
export function useElementSize(element: Readonly<Ref<HTMLElement | null>>) {
  const width = ref(0)
  const height = ref(0)
  const observer = new ResizeObserver(([entry]) => {
    width.value = entry?.contentRect.width ?? 0
    height.value = entry?.contentRect.height ?? 0
  })
  watch(element, (now, before) => {
    if (before) observer.unobserve(before)
    if (now) observer.observe(now)
  })
  onBeforeUnmount(() => observer.disconnect())
  return { width, height }
}
