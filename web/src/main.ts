import { createApp } from "vue"
import { QueryCache, QueryClient, VueQueryPlugin } from "@tanstack/vue-query"
import App from "./App.vue"
import { router } from "./router"
import { begin } from "./underWay"
import { Problem } from "./api/client"
import "./style.css"

const queries = new QueryClient({
  queryCache: new QueryCache({
    onError: (e) => {
      // The address bar and not the route: the first answer can come before the first view.
      const at = location.pathname
      if (e instanceof Problem && e.type === "not-signed-in" && at !== "/sign-in" && at !== "/set-up") {
        router.replace({ name: "sign-in", query: { to: at + location.search } })
      }
    },
  }),
  defaultOptions: {
    queries: { retry: (n, e) => n < 2 && !(e instanceof Problem && e.status < 500), staleTime: 5_000 },
  },
})

let arrived = () => {}
router.beforeEach(() => {
  const before = arrived
  arrived = begin()
  before()
})
router.afterEach(() => arrived())
router.onError(() => arrived())

createApp(App).use(router).use(VueQueryPlugin, { queryClient: queries }).mount("#app")
