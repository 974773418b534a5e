<script setup lang="ts">
// How this device tells that a look is due.
import { allowed, askForNotifications, chime, soundOn } from './tell'
</script>

<template>
  <section class="sheet stack" aria-labelledby="tell-me">
    <h2 id="tell-me">When a look is due</h2>
    <p class="small">The title of the tab tells it, on every page of Finchwort that is open here.</p>
    <p class="row">
      <el-switch v-model="soundOn" active-text="A sound too" aria-label="A sound too" />
      <el-button v-if="soundOn" size="small" @click="chime">Let me hear it</el-button>
    </p>
    <p v-if="allowed === 'ask'">
      <el-button @click="askForNotifications">Notifications on this device</el-button>
    </p>
    <p v-else class="small quiet">
      {{
        allowed === 'granted'
          ? 'This device shows notifications, while a page of Finchwort is open in it.'
          : allowed === 'denied'
            ? 'Notifications are refused for this page. The settings of the browser can allow them.'
            : 'This browser shows notifications only over a secure address. Sound and title still tell.'
      }}
    </p>
  </section>
</template>
