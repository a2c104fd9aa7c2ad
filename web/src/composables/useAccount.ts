import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query"
import { api, result, type Schemas } from "../api/client"

export type Role = Schemas["Role"]

/** The roles, from the least to the most. */
export const roles: Role[] = ["viewer", "librarian", "keeper", "admin"]

/** Access tokens: one's own, or as an admin somebody's. */
export function useTokens(user = "") {
  const client = useQueryClient()
  const key = ["tokens", user]
  const renew = () => client.invalidateQueries({ queryKey: key })
  const query = user ? { user } : {}
  const tokens = useQuery({
    queryKey: key,
    queryFn: () => result(api.GET("/api/v1/access-tokens", { params: { query } })),
  })
  const make = useMutation({
    mutationFn: (body: Schemas["TokenName"]) => result(api.POST("/api/v1/access-tokens", { body })),
    onSuccess: renew,
  })
  const drop = useMutation({
    mutationFn: (id: number) =>
      result(api.DELETE("/api/v1/access-tokens/{id}", { params: { path: { id } } })),
    onSuccess: renew,
  })
  return { tokens, make, drop }
}

/** Where somebody is signed in: oneself, or as an admin somebody else. */
export function useSignIns(user = "") {
  const client = useQueryClient()
  const key = ["sign-ins", user]
  const renew = () => client.invalidateQueries({ queryKey: key })
  const query = user ? { user } : {}
  const signIns = useQuery({
    queryKey: key,
    queryFn: () => result(api.GET("/api/v1/sessions", { params: { query } })),
  })
  const end = useMutation({
    mutationFn: (id: string) =>
      result(api.DELETE("/api/v1/sessions/{id}", { params: { path: { id }, query } })),
    onSuccess: renew,
  })
  const endOthers = useMutation({
    mutationFn: () => result(api.DELETE("/api/v1/sessions", { params: { query } })),
    onSuccess: renew,
  })
  return { signIns, end, endOthers }
}

/** One's own password. */
export function usePassword() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (body: Schemas["PasswordChange"]) => result(api.PUT("/api/v1/account/password", { body })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["sign-ins"] }),
  })
}

/** Everybody's accounts, for admins. */
export function usePeople() {
  const client = useQueryClient()
  const renew = () => client.invalidateQueries({ queryKey: ["users"] })
  const people = useQuery({ queryKey: ["users"], queryFn: () => result(api.GET("/api/v1/users")) })
  const add = useMutation({
    mutationFn: (body: Schemas["NewUser"]) => result(api.POST("/api/v1/users", { body })),
    onSuccess: renew,
  })
  const change = useMutation({
    mutationFn: (x: { user: string; body: Schemas["UserChange"] }) =>
      result(api.PATCH("/api/v1/users/{user}", { params: { path: { user: x.user } }, body: x.body })),
    onSuccess: () => {
      renew()
      client.invalidateQueries({ queryKey: ["sign-ins"] })
    },
  })
  return { people, add, change }
}
