<script setup lang="ts">
// What was tried already, and what came of it: evidence, and not proposed once more.
import type { Schemas } from '@/api/client'

defineProps<{ items: Schemas['BeforeOut'][]; locked?: boolean }>()
defineEmits<{ tell: [what: string, came: string] }>()
const CAME = [
  { key: 'unknown', name: 'Not tried' },
  { key: 'not_better', name: 'No better' },
  { key: 'little', name: 'A little' },
  { key: 'better', name: 'Better' },
]
</script>

<template>
  <FoldPart
    ><template #title
      >What was tried already<span v-if="items.some((i) => i.came)" class="quiet">
        · {{ items.filter((i) => i.came).length }} told</span
      ></template
    >
    <div v-for="i in items" :key="i.key" class="tried row spread">
      <span>{{ i.name }}</span>
      <el-radio-group
        :model-value="i.came ?? 'unknown'"
        :disabled="locked"
        size="small"
        :aria-label="i.name"
        @update:model-value="$emit('tell', i.key, String($event))"
      >
        <el-radio-button v-for="c in CAME" :key="c.key" :value="c.key">{{ c.name }}</el-radio-button>
      </el-radio-group>
    </div>
  </FoldPart>
</template>

<style scoped>
.tried {
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
</style>
