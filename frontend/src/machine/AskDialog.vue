<script setup lang="ts">
// Nothing heats or moves before this was read and agreed to.
import { ref, watch } from 'vue'
import { sendKeyed, sentence, type Schemas } from '@/api/client'
import { api, useChange } from '@/api/queries'
import { newKey } from '@/shell/format'

const props = defineProps<{ printer: number; wanted: Schemas['JobWanted'] | null }>()
const emit = defineEmits<{ close: []; begun: [job: Schemas['JobLineOut']] }>()
const asked = ref<Schemas['AskedOut'] | null>(null)
const trouble = ref('')
const key = ref(newKey())
const add = useChange((body: Schemas['JobIn']) => api.addJob(props.printer, body))

async function ask(): Promise<void> {
  if (!props.wanted) return
  asked.value = null
  trouble.value = ''
  try {
    asked.value = await api.askJob(props.printer, props.wanted)
    key.value = newKey()
  } catch (e) {
    trouble.value = sentence(e)
  }
}
async function agree(): Promise<void> {
  trouble.value = ''
  try {
    const job = await sendKeyed(key, (client_key) => add.mutateAsync({ ...props.wanted!, client_key, token: asked.value!.token }))
    emit('begun', job)
    emit('close')
  } catch (e) {
    trouble.value = sentence(e)
  }
}
watch(() => props.wanted, () => void ask(), { immediate: true })
</script>

<template>
  <el-dialog :model-value="wanted !== null" title="This will happen" width="min(94vw, 520px)" @close="emit('close')">
    <div class="stack">
      <p v-if="asked" class="what">{{ asked.sentence }}</p>
      <p v-else-if="!trouble" role="status">Looking at what this means …</p>
      <p v-for="one in asked?.cautions" :key="one" class="caution">{{ one }}</p>
      <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
      <div class="row">
        <el-button v-if="asked" type="primary" size="large" :loading="add.isPending.value" @click="agree">
          {{ asked.moves ? 'Move' : asked.heats ? 'Heat' : 'Go on' }}
        </el-button>
        <el-button size="large" @click="emit('close')">Not now</el-button>
      </div>
    </div>
  </el-dialog>
</template>

<style scoped>
.what {
  font-size: 1.15rem;
  font-weight: 600;
}
</style>
