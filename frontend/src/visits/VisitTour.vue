<script setup lang="ts">
// What stands where on the page of a visit, one thing after the other.
import { touring } from '@/shell/tour'

const STOPS = [
  {
    at: '.route',
    title: 'The way through a visit',
    says:
      'The steps, in the order in which they do not spoil each other. Each can be passed over; ' +
      'the one that is next is marked.',
  },
  {
    at: '.setup',
    title: 'What lies on the printer today',
    says: 'Surface, material and temperatures. A bed measured cold says little about a hot one, so keep this true.',
  },
  {
    at: '[data-happened]',
    title: 'When something happened',
    says: 'A new nozzle, a bump, a moved printer: say it here, and what no longer holds is marked.',
  },
  {
    at: '.visit .sheet h2',
    title: 'The step itself',
    says:
      'It says what to do, takes what you read, and says what follows. What you typed stays on this device ' +
      'until it is stored. Text copied from a printer’s console can be pasted anywhere on this page.',
  },
]
/** What is on this page: a closed visit has less. */
const stops = STOPS.filter((stop) => document.querySelector(stop.at))
</script>

<template>
  <el-tour v-model="touring" :mask="{ color: 'rgb(20 20 20 / 45%)' }">
    <el-tour-step
      v-for="(stop, i) in stops"
      :key="stop.at"
      :target="stop.at"
      :title="stop.title"
      :description="stop.says"
      :prev-button-props="{ children: 'Back' }"
      :next-button-props="{ children: i === stops.length - 1 ? 'Done' : 'Next' }"
    />
  </el-tour>
</template>
