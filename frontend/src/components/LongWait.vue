<script setup lang="ts">
// How far something is that takes more than a second, by how long it took the last time on this device.
import { useIntervalFn, useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

const props = defineProps<{ busy: boolean; says: string; name: string }>()
const SOON = 1000
const took = useLocalStorage(`finchwort-took-${props.name}`, 4000)
const since = ref(0)
const gone = ref(0)
const clock = useIntervalFn(() => (gone.value = Date.now() - since.value), 250, { immediate: false })
watch(
  () => props.busy,
  (busy) => {
    if (busy) {
      since.value = Date.now()
      clock.resume()
    } else if (since.value) {
      clock.pause()
      took.value = Math.max(SOON, Date.now() - since.value)
      gone.value = 0
    }
  },
  { immediate: true },
)
const left = computed(() => Math.ceil((took.value - gone.value) / 1000))
</script>

<template>
  <div v-if="busy && gone > SOON" class="stack">
    <el-progress
      :percentage="Math.min(95, Math.round((100 * gone) / took))"
      :show-text="false"
      :stroke-width="10"
      :aria-label="says"
    />
    <p class="quiet small" role="status">
      {{ says }}, {{ left > 0 ? `about ${left} s left` : 'almost there' }} …
    </p>
  </div>
</template>
