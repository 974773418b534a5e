<script setup lang="ts">
// A correction: which way, how far, and the number to type in.
import { computed, ref, watch } from 'vue'
import type { Schemas } from '@/api/client'
import AskDialog from '@/machine/AskDialog.vue'
import { useJob } from '@/machine/jobs'
import { figure, mm } from '@/shell/format'
import { tell } from '@/shell/undo'

const props = defineProps<{ found: Schemas['NewOffsetOut']; trimmed?: boolean; busy: boolean; visit: Schemas['VisitOut']; reason: Schemas['OffsetIn']['reason'] }>()
const emit = defineEmits<{ stored: []; sent: [] }>()
// over the line, where there is one and the value is kept in the printer
const canSend = computed(() => props.visit.printer.port !== '' && props.found.place === 'printer')
const wanted = ref<Schemas['JobWanted'] | null>(null)
const begun = ref<number | null>(null)
const { data: job } = useJob(begun)
const send = (): void => void (wanted.value = { kind: 'offset', visit: props.visit.id, value: props.found.value!, reason: props.reason, margin: props.found.margin, until_steady: true })
watch(() => job.value?.state, (state) => {
  if (state !== 'done') return
  tell(job.value!.message)
  begun.value = null
  emit('sent')
})
const direction = computed(() => (Math.abs(props.found.closer) >= 0.005 ? `${mm(Math.abs(props.found.closer))} ${props.found.closer > 0 ? 'closer' : 'farther'}` : 'nothing at all'))
const title = computed(() => (props.found.enough || Math.abs(props.found.closer) < 0.005 ? 'Leave it' : props.trimmed ? `You went ${direction.value}` : `Go ${direction.value}`))
const leave = computed(() => title.value === 'Leave it')
</script>

<template>
  <section class="sheet stack" aria-label="New offset" aria-live="polite">
    <template v-if="found.refused">
      <h2>Do not use this offset</h2>
      <p class="trouble" role="alert">{{ found.refused }}</p>
    </template>
    <template v-else>
      <h2>{{ title }}</h2>
      <p v-if="!leave && !found.known" class="caution">Write down what stands in the machine now, and ask again: then this gives the number to type in.</p>
      <p v-else-if="!leave" class="type-in">Type <b class="number">{{ figure(found.value!, true) }}</b> mm into {{ found.label }} <span class="quiet">(was {{ figure(found.before, true) }})</span></p>
      <p>{{ found.sentence }}</p>
      <template v-if="found.turns.length"><h3>For the tilt</h3><ul><li v-for="t in found.turns" :key="t">{{ t }}</li></ul></template>
      <div v-if="!leave && found.known" class="row">
        <el-button type="primary" size="large" :loading="busy" @click="$emit('stored')">I stored this</el-button>
        <el-button v-if="canSend" size="large" :disabled="busy" :loading="begun !== null && job?.state !== 'failed' && job?.state !== 'interrupted'" @click="send">Send it to {{ visit.printer.name }}</el-button>
      </div>
      <p v-if="job && (job.state === 'failed' || job.state === 'interrupted')" class="trouble" role="alert">{{ job.message }}</p>
      <p v-if="trimmed && !leave && found.known" class="quiet">A trim is gone after a restart unless it is stored: in the printer’s menu, or in the profile.</p>
    </template>
    <AskDialog :printer="visit.printer.id" :wanted="wanted" @close="wanted = null" @begun="begun = $event.id" />
  </section>
</template>

<style scoped>
.type-in {
  font-size: 1.25rem;
}
.type-in b {
  font-size: 1.6rem;
}
</style>
