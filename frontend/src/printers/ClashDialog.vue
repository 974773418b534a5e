<script setup lang="ts">
// Somebody else was faster: what differs, and whose it shall be.
import type { Difference } from './differences'

defineProps<{ open: boolean; differences: Difference[] }>()
defineEmits<{ theirs: []; mine: []; leave: [] }>()
</script>

<template>
  <el-dialog
    :model-value="open"
    title="Changed elsewhere"
    width="min(94vw, 620px)"
    :close-on-click-modal="false"
    @close="$emit('leave')"
  >
    <div class="stack">
      <p>
        This set-up was changed in another tab or by someone else since you opened it. Nothing was
        overwritten. This differs:
      </p>
      <table class="plain-table">
        <thead>
          <tr>
            <th></th>
            <th>Yours</th>
            <th>Theirs</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in differences" :key="row.label">
            <th scope="row">{{ row.label }}</th>
            <td>{{ row.mine }}</td>
            <td>{{ row.theirs }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="differences.length === 0">Nothing; both are the same.</p>
      <div class="row">
        <el-button type="primary" @click="$emit('theirs')">Take theirs</el-button>
        <el-button @click="$emit('mine')">Save mine instead</el-button>
      </div>
    </div>
  </el-dialog>
</template>
