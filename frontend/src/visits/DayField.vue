<script setup lang="ts">
// A day of the past, from a calendar.
import { nextTick } from 'vue'

const day = defineModel<Date | null>({ required: true })
/** The kit opens its calendar as a dialog without a name. */
async function named(open: boolean): Promise<void> {
  await nextTick()
  if (open) document.querySelector('.day-popper')?.setAttribute('aria-label', 'Up to the day')
}
</script>

<template>
  <el-date-picker
    v-model="day"
    placeholder="Up to the day"
    format="D MMM YYYY"
    aria-label="Up to the day"
    :disabled-date="(one: Date) => one > new Date()"
    :editable="false"
    popper-class="day-popper"
    @visible-change="named"
  />
</template>
