<script setup lang="ts">
// A print before it is started: what to change, what stands in its file, and its first layer along its own lines.
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { useApiQuery } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { useTrail } from '@/shell/trail'
import FileCopies from './FileCopies.vue'
import FileFacts from './FileFacts.vue'
import FileFindings from './FileFindings.vue'
import FileForecast from './FileForecast.vue'
import FilePlaces from './FilePlaces.vue'
import FileTarget from './FileTarget.vue'

const route = useRoute()
/** Of which bed all of this is told, or of the file bent to it. */
const view = ref<Schemas['Stage'] | 'bent'>('measured')
const stage = computed(() => (view.value === 'bent' ? 'measured' : view.value))
const copy = ref<'bent' | 'moved' | 'changed'>('bent')
const id = computed(() => Number(route.params.id))
const { data, error } = useApiQuery('/api/files/{file_id}', () => ({ file_id: id.value }), { keep: true })
useTrail(() => [{ name: 'Before a print', to: '/files' }, { name: data.value?.name ?? 'A print' }])
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <div v-else-if="data" class="stack">
    <div class="row spread">
      <h1>{{ data.name }}</h1>
      <RouterLink
        v-if="data.printer_id"
        class="el-button el-button--primary plain"
        :to="`/printers/${data.printer_id}/print?file=${data.id}`"
        >I print this now</RouterLink
      >
    </div>
    <FileTarget :key="`${data.id} ${data.version}`" :file="data" />
    <div class="worktable even">
      <div class="stack">
        <FileForecast v-model:view="view" :file="data" />
        <FileCopies v-if="data.printer_id" :key="data.id" v-model="copy" :file="data" />
      </div>
      <div class="stack">
        <FileFindings :file="data" />
        <FilePlaces v-if="data.stages.includes(stage)" :file="data" :stage="stage" />
        <FileFacts :file="data" />
        <CautionNote>
          Stay with the first layer. If the tip ever touches the plate, stop the print at once: both are
          spoiled.
        </CautionNote>
      </div>
    </div>
  </div>
  <WaitBox v-else says="Opening the print …" kind="page" />
</template>

<style scoped>
.plain {
  text-decoration: none;
}
</style>
