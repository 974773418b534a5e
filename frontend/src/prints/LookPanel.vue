<script setup lang="ts">
// One look: a picture of what good looks like now, and three answers for a thumb.
import { computed, ref } from 'vue'
import { send, useSubmit } from '@/api/change'
import type { Schemas } from '@/api/client'
import { onKey } from '@/shell/shortcuts'
import LookPicture from './LookPicture.vue'
import { dueAt, since, until, useClock } from './running'

const props = defineProps<{ print: Schemas['PrintOut'] }>()
const now = useClock()
const look = computed(() => props.print.wanted ?? props.print.coming)
const note = ref('')
const add = useSubmit('post', '/api/prints/{print_id}/looks', () => ({ print_id: props.print.id }), {
  said: 'Written down.',
  undo: (made) => send('delete', '/api/print-looks/{look_id}', { look_id: made.id }),
})
async function answer(seen: Schemas['PrintLookIn']['seen']): Promise<void> {
  if (await add.submit({ seen, note: note.value })) note.value = ''
}
const last = computed(() => props.print.looks.at(-1))
const unsure = computed(() => last.value?.seen === 'unsure')
onKey({ y: () => void answer('good'), n: () => void answer('unsure') })
</script>

<template>
  <section class="sheet stack look" :class="{ now: print.wanted }" aria-labelledby="look">
    <template v-if="look">
      <p class="when">
        <template v-if="print.wanted"
          >Look now<span v-if="print.wanted.late">
            – late, due {{ since(print.wanted.due, now) }} ago</span
          ></template
        ><template v-else>Next look {{ dueAt(look.due, now) }}</template>
      </p>
      <h2 id="look">{{ look.title }}</h2>
      <LookPicture :kind="look.kind" :label="`What good looks like: ${look.good}`" />
      <p class="good">{{ look.good }}</p>
    </template>
    <template v-else>
      <h2 id="look">No look is left</h2>
      <p v-if="print.ends_at">It ends in {{ until(print.ends_at, now) }}.</p>
    </template>
    <p v-if="unsure" class="caution">
      Not sure last time: hold a lamp along the plate and look for a second sign. A stop costs least now.
    </p>
    <div class="answers" role="group" aria-label="What you see">
      <el-button type="primary" :loading="add.busy" @click="answer('good')">Good</el-button>
      <el-button :disabled="add.busy" @click="answer('unsure')">Not sure</el-button>
      <el-button type="danger" plain :disabled="add.busy" @click="answer('stopped')">Stopped</el-button>
    </div>
    <p v-if="print.saves" class="small">{{ print.saves }}</p>
    <TextField id="look-note" v-model="note" label="A remark, if you want" maxlength="500" />
    <TroubleNote v-if="add.trouble">{{ add.trouble }}</TroubleNote>
  </section>
</template>

<style scoped>
.look.now {
  border: 3px solid var(--accent);
}
.when {
  font-weight: 650;
}
.good {
  font-size: 1.15rem;
}
.answers {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 8px;
}
.answers .el-button {
  margin: 0;
  height: auto;
  min-height: 72px;
  font-size: 1.15rem;
  font-weight: 650;
  white-space: normal;
}
</style>
