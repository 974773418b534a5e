<script setup lang="ts">
import { away } from './follow'
import { doNotWait, waiting } from './patience'
import { dismiss, notice, runUndo } from './undo'

defineProps<{ top: boolean }>()
</script>

<template>
  <!-- eslint-disable vue/no-restricted-html-elements --
  in a region that is there before it speaks; the kit's message is put in when it speaks, and is missed -->
  <Teleport to="body">
    <div class="holder" data-notice :class="{ 'at-head': top }" role="status" aria-live="polite">
      <div v-if="waiting" class="bar" data-waiting>
        <span
          >Finchwort does not answer. What you did is kept here, and is stored by itself as soon as it is
          back.</span
        >
        <button type="button" @click="doNotWait">Do not wait</button>
      </div>
      <div v-else-if="notice.current" :key="notice.current.key" class="bar">
        <span>{{ notice.current.text }}</span>
        <button v-if="notice.current.undo" type="button" :disabled="notice.busy" @click="runUndo">
          Undo
        </button>
        <button type="button" aria-label="Close this message" @click="dismiss">×</button>
      </div>
      <div v-else-if="away" class="bar calm" data-away>
        <span>Not connected. What you see may be old; it is asked for again all the time.</span>
      </div>
    </div>
  </Teleport>
</template>

<style scoped>
.holder {
  position: fixed;
  left: 0;
  right: 0;
  bottom: 16px;
  display: flex;
  justify-content: center;
  pointer-events: none;
  z-index: 3000;
}
/* at the printer the thumb's buttons are at the foot, so the message goes to the head */
.holder.at-head {
  bottom: auto;
  top: 72px;
}
@media (max-width: 640px) {
  .holder {
    bottom: auto;
    top: 64px;
  }
}
.bar {
  pointer-events: auto;
  display: flex;
  gap: 10px;
  align-items: center;
  background: #1d2f3a;
  color: #fbf8f0;
  padding: 8px 10px 8px 16px;
  border-radius: var(--round);
  max-width: min(92vw, 640px);
  border: 1px solid #8d8570;
}
button {
  font: inherit;
  font-weight: 650;
  color: #f3d9a4;
  background: transparent;
  border: 1px solid transparent;
  border-radius: 4px;
  min-height: 36px;
  min-width: 36px;
  cursor: pointer;
}
button {
  white-space: nowrap;
}
button:hover {
  border-color: #f3d9a4;
}
</style>
