<template>
  <div class="rounded-lg border border-dashed border-hair px-6 py-10 text-center text-faded"><slot /></div>
</template>
