<script setup lang="ts">
// Before levelling by paper: what to do first, and what is hot.
defineProps<{ why: string }>()
defineEmits<{ ready: [] }>()
</script>

<template>
  <div class="begin-page">
    <h1>Level by paper</h1>
    <p>{{ why }}</p>
    <ol class="begin">
      <li>Tighten every knob until its spring holds well.</li>
      <li>Heat the bed to printing temperature, tip clean, <b>motors off</b>.</li>
      <li>One corner after the other: feel, turn, feel the next. Stop and go on whenever you like.</li>
    </ol>
    <CautionNote>
      Bed and tip are hot. Hands off both; a strip longer than your hand; fingers clear of the knobs’ springs.
    </CautionNote>
    <el-button type="primary" class="large" @click="$emit('ready')">I am ready</el-button>
  </div>
</template>

<style scoped>
.begin-page {
  display: contents;
}
h1 {
  font-size: clamp(1.7rem, min(7vw, 5.4vh), 3.2rem);
  line-height: 1.12;
}
.begin {
  margin: 0;
  padding-left: 1.3em;
}
.begin li {
  margin: 6px 0;
}
.large {
  width: 100%;
  min-height: 76px;
  font-size: 1.5rem;
  font-weight: 650;
}
</style>
