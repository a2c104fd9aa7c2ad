import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { computed } from "vue"
import { api, result } from "../api/client"

const ranks = ["viewer", "librarian", "keeper", "admin"]

/** Who is signed in, and what they may do. */
export function useSession() {
  const client = useQueryClient()
  const session = useQuery({
    queryKey: ["session"],
    queryFn: () => result(api.GET("/api/v1/session")),
    staleTime: 60_000,
  })
  // What another person was shown goes; the session itself stays observed.
  const forget = () => client.removeQueries({ predicate: (q) => q.queryKey[0] !== "session" })
  const may = (role: string) =>
    computed(() => ranks.indexOf(session.data.value?.role ?? "") >= ranks.indexOf(role))
  const signIn = useMutation({
    mutationFn: (body: { name: string; password: string }) => result(api.POST("/api/v1/session", { body })),
    onSuccess: (s) => {
      forget()
      client.setQueryData(["session"], s)
    },
  })
  const signOut = useMutation({
    mutationFn: () => result(api.DELETE("/api/v1/session")),
    onSuccess: () => {
      forget()
      return client.resetQueries({ queryKey: ["session"] })
    },
  })
  return { session, may, signIn, signOut }
}
