import { onScopeDispose, ref, type Ref } from "vue"

/** Whether an element is in sight, or about to be; it stays so once it was. */
export function useInSight(): { inSight: Ref<boolean>; mark: (el: unknown) => void } {
  const inSight = ref(false)
  const watcher = new IntersectionObserver(
    (list) => {
      if (list.some((e) => e.isIntersecting)) {
        inSight.value = true
        watcher.disconnect()
      }
    },
    { rootMargin: "200px" },
  )
  onScopeDispose(() => watcher.disconnect())
  return {
    inSight,
    mark: (el) => {
      if (el instanceof HTMLElement && !inSight.value) watcher.observe(el)
    },
  }
}
