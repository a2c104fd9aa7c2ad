import { computed, ref, watch, type Ref } from "vue"
import { useDrafts } from "./useSites"
import { useSession } from "./useSession"

/** The draft that I work in on a site: the last of mine that is nobody's delivery and waits for no time. */
export function useMyDraft(site: Ref<string>, asked?: number) {
  const drafts = useDrafts(site)
  const { session } = useSession()
  const draft = ref<number | null>(asked ?? null)
  const known = computed(() => !!drafts.data.value && !!session.data.value)
  const mine = computed(() =>
    (drafts.data.value?.drafts ?? [])
      .filter((d) => d.by === session.data.value?.name && !d.liveAt && !d.delivery)
      .reduce<number | null>((last, d) => Math.max(last ?? 0, d.id), null),
  )
  watch(
    mine,
    (id) => {
      if (!asked || !drafts.data.value?.drafts.some((d) => d.id === draft.value)) draft.value = asked ?? id
    },
    { immediate: true },
  )
  return { drafts, draft, known }
}
