<script setup lang="ts">
import { useTitle } from "../composables/useTitle"

useTitle(() => ["Not there"])
</script>

<template>
  <div class="py-16">
    <h1>There is nothing at this address</h1>
    <p class="mt-2"><router-link class="link" to="/library">Go to the library</router-link></p>
  </div>
</template>
