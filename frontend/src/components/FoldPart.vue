<script setup lang="ts">
// What is looked at now and then, folded away under its name.
import { ref, watch } from 'vue'

/** `late`: built when it is first unfolded, for what is much and has nothing to keep. */
const props = defineProps<{ title?: string; open?: boolean; late?: boolean }>()
const emit = defineEmits<{ toggle: [open: boolean] }>()
const NAME = 'part'
const unfolded = ref<string[]>([])
const built = ref(!props.late || props.open)
watch(unfolded, (now) => (built.value ||= now.length > 0))
watch(
  () => props.open,
  (open) => (unfolded.value = open ? [NAME] : []),
  { immediate: true },
)
</script>

<template>
  <el-collapse v-model="unfolded" class="fold" @change="emit('toggle', unfolded.length > 0)">
    <el-collapse-item :name="NAME">
      <template #title
        ><span
          ><slot name="title">{{ title }}</slot></span
        ></template
      >
      <div v-if="built" class="stack"><slot /></div>
    </el-collapse-item>
  </el-collapse>
</template>
