import { useQuery } from "@tanstack/vue-query"
import { computed, type Ref } from "vue"
import { api, result } from "../api/client"

/** The alternative texts that a site says of a picture, each with the items that say it. */
export function useMediaTexts(
  site: Ref<string>,
  draft: Ref<number | null>,
  media: Ref<string>,
  enabled: Ref<boolean>,
) {
  return useQuery({
    queryKey: computed(() => ["media-texts", site.value, draft.value, media.value]),
    queryFn: () =>
      result(
        api.GET("/api/v1/sites/{site}/pictures/texts", {
          params: {
            path: { site: site.value },
            query: { media: media.value, draft: draft.value ?? undefined },
          },
        }),
      ),
    enabled,
    placeholderData: (old) => old,
  })
}
