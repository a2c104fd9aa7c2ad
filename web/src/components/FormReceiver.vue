<script setup lang="ts">
import { computed, ref, toRef, watch } from "vue"
import { useSetting } from "../composables/useSetting"
import type { useSiteEdits } from "../composables/useSiteEdits"

// Who gets what is sent with a form, and what the sender is answered.
const props = defineProps<{
  site: string
  form: string
  draft: number | null
  keeper: boolean
  edits: ReturnType<typeof useSiteEdits>
}>()
interface Mail {
  subject?: string
  text?: string
}
interface Receiver extends Mail {
  to?: string[]
  answer?: Mail
}
const { value, write } = useSetting<Record<string, Receiver>>(
  toRef(props, "site"),
  toRef(props, "draft"),
  "forms",
  props.edits,
)
const mine = computed(() => value.value?.[props.form])
const to = ref("")
const subject = ref("")
const answerSubject = ref("")
const answerText = ref("")
watch(
  mine,
  (m) => {
    to.value = (m?.to ?? []).join(", ")
    subject.value = m?.subject ?? ""
    answerSubject.value = m?.answer?.subject ?? ""
    answerText.value = m?.answer?.text ?? ""
  },
  { immediate: true },
)
const says = ref("")
function keep() {
  const list = to.value.split(/[\s,;]+/).filter(Boolean)
  const bad = list.find((a) => !/^[^\s@]+@[^\s@]+$/.test(a))
  says.value = bad ? `${bad} is no mail address.` : ""
  if (bad) return
  const one: Receiver = { ...mine.value, to: list, subject: subject.value || undefined }
  if (answerSubject.value || answerText.value)
    one.answer = { subject: answerSubject.value, text: answerText.value }
  else delete one.answer
  void write({ ...value.value, [props.form]: one })
}
</script>

<template>
  <section class="sheet p-4" data-receiver>
    <h2 class="mb-2">Who gets it</h2>
    <form class="space-y-3" @submit.prevent="keep">
      <label class="block"
        ><span class="label">Mail to</span>
        <input v-model="to" class="field" :readonly="!keeper" placeholder="nobody yet" data-receiver-to />
      </label>
      <label class="block"
        ><span class="label">Its subject</span>
        <input v-model="subject" class="field" :readonly="!keeper" placeholder="{name} has a question" />
      </label>
      <fieldset class="space-y-2">
        <legend class="label">Answer to the sender</legend>
        <input
          v-model="answerSubject"
          class="field"
          :readonly="!keeper"
          placeholder="Subject; empty: no answer"
          aria-label="Subject of the answer"
        />
        <textarea
          v-model="answerText"
          class="field min-h-24"
          :readonly="!keeper"
          placeholder="Dear {name}, …"
          aria-label="Words of the answer"
        />
      </fieldset>
      <p class="text-sm text-faded">
        {name} in braces stands for what was filled in as “name”. Mail addresses never travel in kits.
      </p>
      <p v-if="says" role="alert" class="text-call">{{ says }}</p>
      <button v-if="keeper" class="btn-quiet" :disabled="edits.busy.value">Keep it</button>
    </form>
  </section>
</template>
