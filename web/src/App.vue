<script setup lang="ts">
import { computed } from "vue"
import { useRoute, useRouter } from "vue-router"
import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/vue"
import {
  GlobeAltIcon,
  BookOpenIcon,
  BriefcaseIcon,
  TruckIcon,
  UserCircleIcon,
} from "@heroicons/vue/24/outline"
import { useSession } from "./composables/useSession"

const route = useRoute()
const router = useRouter()
// A view is made anew for another thing, not for another step of the same.
const view = computed(() =>
  route.meta.place === "deliveries" ? route.path.split("/").slice(0, 3).join("/") : route.path,
)
const bare = computed(() => route.meta.bare === true)
const { session, signOut, may } = useSession()
const keeper = may("keeper")
const places = [
  { name: "library", label: "Library", icon: BookOpenIcon },
  { name: "work", label: "My work", icon: BriefcaseIcon },
  { name: "sites", label: "Sites", icon: GlobeAltIcon },
  { name: "deliveries", label: "Deliveries", icon: TruckIcon },
]
async function leave() {
  await signOut.mutateAsync()
  router.push({ name: "sign-in" })
}
</script>

<template>
  <router-view v-if="bare" />
  <div v-else class="min-h-screen md:grid md:grid-cols-[13.5rem_1fr]">
    <a
      href="#content"
      class="sr-only focus:not-sr-only focus:absolute focus:z-50 focus:m-2 focus:bg-sheet focus:p-2"
      >Skip to the content</a
    >
    <aside class="places">
      <div class="flex min-w-0 items-center md:block">
        <router-link to="/library" class="flex items-center gap-2.5 md:px-2" aria-label="Compact Parcel">
          <img src="/parcel.svg" alt="" class="size-8" /><span
            class="hidden text-lg font-semibold leading-tight md:inline"
            >Compact<br />Parcel</span
          >
        </router-link>
        <nav aria-label="Places" class="flex md:mt-8 md:flex-col md:gap-1">
          <router-link
            v-for="p in places"
            :key="p.name"
            :to="`/${p.name}`"
            :aria-current="route.meta.place === p.name ? 'page' : undefined"
            class="place"
            :class="
              route.meta.place === p.name
                ? 'border-ink bg-sheet font-semibold'
                : 'border-transparent text-faded hover:text-ink'
            "
          >
            <component :is="p.icon" class="size-5 max-md:hidden" aria-hidden="true" />{{ p.label }}
          </router-link>
        </nav>
      </div>
      <Menu as="div" class="relative">
        <MenuButton class="flex w-full items-center gap-2 rounded-md px-2 py-2 hover:bg-sheet">
          <UserCircleIcon class="size-6" aria-hidden="true" /><span
            class="text-left leading-tight max-md:sr-only"
            >{{ session.data.value?.name }}<br /><span class="text-sm text-faded">{{
              session.data.value?.role
            }}</span></span
          >
        </MenuButton>
        <MenuItems
          class="sheet absolute right-0 z-40 w-52 py-1 shadow-lg max-md:top-full md:bottom-full md:left-0"
        >
          <MenuItem v-slot="{ active }"
            ><router-link to="/account" class="block px-4 py-2" :class="active && 'bg-slate-soft'"
              >Account and access tokens</router-link
            ></MenuItem
          >
          <MenuItem v-if="keeper" v-slot="{ active }"
            ><router-link to="/jobs" class="block px-4 py-2" :class="active && 'bg-slate-soft'"
              >Jobs</router-link
            ></MenuItem
          >
          <MenuItem v-slot="{ active }"
            ><router-link to="/trust" class="block px-4 py-2" :class="active && 'bg-slate-soft'"
              >Trusted keys</router-link
            ></MenuItem
          >
          <MenuItem v-slot="{ active }"
            ><button
              class="block w-full px-4 py-2 text-left"
              :class="active && 'bg-slate-soft'"
              @click="leave"
            >
              Sign out
            </button></MenuItem
          >
        </MenuItems>
      </Menu>
    </aside>
    <main id="content" class="min-w-0 px-4 py-6 md:px-10 md:py-8">
      <div class="mx-auto max-w-[75rem]"><router-view :key="view" /></div>
    </main>
  </div>
</template>
