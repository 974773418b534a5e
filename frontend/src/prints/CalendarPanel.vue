<script setup lang="ts">
// What is due as a calendar: an address that a calendar on a phone or computer subscribes to.
import { computed } from 'vue'
import { call, useApiQuery } from '@/api/ask'
import { useSending } from '@/api/change'
import { copyText } from '@/shell/copy'

const { data } = useApiQuery('/api/calendar')
const changing = useSending({ aloud: true })
const set = (on: boolean, said: string) => changing.run(() => call('put', '/api/calendar', {}, { on }), said)
const address = computed(() => (data.value?.path ? `${window.location.origin}${data.value.path}` : ''))
const copy = (): Promise<void> => copyText(address.value, 'Select the address and copy it.')
</script>

<template>
  <section v-if="data" class="sheet stack" aria-labelledby="calendar">
    <div class="row spread">
      <h2 id="calendar">What is due, as a calendar</h2>
      <el-switch
        :model-value="!!data.path"
        size="large"
        aria-label="What is due, as a calendar"
        :loading="changing.busy"
        @update:model-value="
          (on: string | number | boolean) =>
            set(on === true, on === true ? 'The calendar has an address.' : 'The calendar is off.')
        "
      />
    </div>
    <p class="small quiet">
      Looks at prints, their ends, what the workshop says is due today, and when a level is to be looked at
      again. A calendar program asks for it now and then; nothing can be changed by it.
    </p>
    <template v-if="address">
      <el-input :model-value="address" readonly aria-label="Address of the calendar" />
      <p class="row">
        <el-button @click="copy">Copy the address</el-button>
        <el-button @click="set(true, 'A new address. The old one shows nothing any more.')"
          >Another address</el-button
        >
      </p>
      <p class="small">
        Whoever has this address sees what is due, without being let in as a device. Give it to nobody else;
        another address takes it away from all who have it. From another device it works while Finchwort is
        open to the local network, where the calendar trusts its certificate.
      </p>
    </template>
  </section>
</template>
