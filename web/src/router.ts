import { createRouter, createWebHistory } from "vue-router"

// Every view has its own address. The places come first.
export const router = createRouter({
  history: createWebHistory(),
  scrollBehavior: (_to, _from, saved) => saved ?? { top: 0 },
  routes: [
    { path: "/", redirect: "/library" },
    {
      path: "/sign-in",
      name: "sign-in",
      component: () => import("./views/SignInView.vue"),
      meta: { bare: true },
    },
    { path: "/set-up", component: () => import("./views/SetUpView.vue"), meta: { bare: true } },
    { path: "/library", component: () => import("./views/LibraryView.vue"), meta: { place: "library" } },
    {
      path: "/library/:kind/:key(.+)",
      component: () => import("./views/ItemView.vue"),
      props: (r) => ({ site: "library", address: `${r.params.kind}/${r.params.key}` }),
      meta: { place: "library" },
    },
    { path: "/kits", component: () => import("./views/KitsView.vue"), meta: { place: "library" } },
    {
      path: "/kits/:name/:version",
      component: () => import("./views/KitView.vue"),
      props: true,
      meta: { place: "library" },
    },
    { path: "/sites", component: () => import("./views/SitesView.vue"), meta: { place: "sites" } },
    {
      path: "/sites/:site",
      component: () => import("./views/SiteView.vue"),
      props: true,
      meta: { place: "sites" },
    },
    {
      path: "/sites/:site/proposals",
      component: () => import("./views/ProposalsView.vue"),
      props: true,
      meta: { place: "sites" },
    },
    {
      path: "/sites/:site/faults",
      component: () => import("./views/FaultsView.vue"),
      props: (r) => ({ site: r.params.site, draft: Number(r.query.draft) || undefined }),
      meta: { place: "sites" },
    },
    {
      path: "/sites/:site/edit:page(/.*)?",
      component: () => import("./views/EditView.vue"),
      props: (r) => ({
        site: r.params.site,
        page: r.params.page || "/",
        asked: Number(r.query.draft) || undefined,
        shelf: r.query.shelf !== undefined,
      }),
      meta: { place: "sites", bare: true },
    },
    {
      path: "/sites/:site/go-live",
      component: () => import("./views/GoLiveView.vue"),
      props: (r) => ({ site: r.params.site, draft: Number(r.query.draft) }),
      meta: { place: "sites" },
    },
    {
      path: "/sites/:site/publishing",
      component: () => import("./views/PublishingView.vue"),
      props: true,
      meta: { place: "sites" },
    },
    {
      path: "/sites/:site/:kind/:key(.+)",
      component: () => import("./views/ItemView.vue"),
      props: (r) => ({ site: r.params.site, address: `${r.params.kind}/${r.params.key}` }),
      meta: { place: "sites" },
    },
    {
      path: "/deliveries",
      component: () => import("./views/DeliveriesView.vue"),
      meta: { place: "deliveries" },
    },
    {
      path: "/deliveries/:id(\\d+)/:heading?",
      component: () => import("./views/DeliveryView.vue"),
      props: (r) => ({ id: Number(r.params.id), heading: r.params.heading || "" }),
      meta: { place: "deliveries" },
    },
    { path: "/jobs", component: () => import("./views/JobsView.vue") },
    { path: "/trust", component: () => import("./views/TrustView.vue") },
    { path: "/account", component: () => import("./views/AccountView.vue") },
    { path: "/:rest(.*)", component: () => import("./views/NowhereView.vue") },
  ],
})
