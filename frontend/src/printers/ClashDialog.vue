<script setup lang="ts">
// Somebody else was faster: what differs, and whose it shall be.
import type { Column } from '@/components/rows'
import type { Difference } from './differences'

const COLUMNS: Column<Difference>[] = [
  { key: 'label', title: 'What', says: (one) => one.label },
  { key: 'mine', title: 'Yours', says: (one) => one.mine },
  { key: 'theirs', title: 'Theirs', says: (one) => one.theirs },
]

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
      <DataTable still :rows="differences" :columns="COLUMNS" row-key="label" name="differences" />
      <p v-if="differences.length === 0">Nothing; both are the same.</p>
      <div class="row">
        <el-button type="primary" @click="$emit('theirs')">Take theirs</el-button>
        <el-button @click="$emit('mine')">Save mine instead</el-button>
      </div>
    </div>
  </el-dialog>
</template>
