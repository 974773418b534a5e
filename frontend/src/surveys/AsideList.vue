<script setup lang="ts">
// Readings that do not belong to this bed: each can be put back, and set aside again.
import { ref } from 'vue'
import { call } from '@/api/ask'
import { sentence, type Schemas } from '@/api/client'
import { tell } from '@/shell/undo'

const props = defineProps<{ survey: number; readings: Schemas['AsideOut'][]; open: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const busy = ref<number | null>(null)
const trouble = ref('')
const put = (place: number, aside: boolean) =>
  call('put', '/api/surveys/{survey_id}/readings/{place}', { survey_id: props.survey, place }, { aside })
async function change(place: number, aside: boolean): Promise<void> {
  trouble.value = ''
  busy.value = place
  try {
    await put(place, aside)
    emit('changed')
    tell(aside ? 'Set aside.' : 'Put back: it counts again.', async () => {
      await put(place, !aside)
      emit('changed')
    })
  } catch (e) {
    trouble.value = sentence(e)
  } finally {
    busy.value = null
  }
}
</script>

<template>
  <section v-if="readings.length" class="sheet stack" aria-label="Odd readings">
    <h3>{{ readings.some((one) => !one.counts) ? 'Set aside' : 'Put back' }}</h3>
    <div v-for="one in readings" :key="one.place" class="row spread nowrap">
      <p>{{ one.sentence }}</p>
      <el-button v-if="open" :loading="busy === one.place" @click="change(one.place, one.counts)">{{
        one.counts ? 'Set aside' : 'Put back'
      }}</el-button>
    </div>
    <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
  </section>
</template>
