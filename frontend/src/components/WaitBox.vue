<script setup lang="ts">
// The room that something takes while it is being asked for, so that nothing jumps when it comes.
withDefaults(defineProps<{ says?: string; kind?: 'page' | 'map' | 'panel' }>(), {
  says: 'Opening …',
  kind: 'panel',
})
</script>

<template>
  <div class="wait" :class="kind">
    <span class="visually-hidden" role="status">{{ says }}</span>
    <el-skeleton animated aria-hidden="true">
      <template #template>
        <el-skeleton-item v-if="kind === 'page'" variant="h1" class="title" />
        <div v-if="kind === 'page'" class="worktable">
          <div class="sheet"><el-skeleton-item variant="rect" class="map" /></div>
          <div class="sheet stack">
            <el-skeleton-item variant="h3" /><el-skeleton-item variant="text" /><el-skeleton-item
              variant="text"
            /><el-skeleton-item variant="button" />
          </div>
        </div>
        <el-skeleton-item v-else-if="kind === 'map'" variant="rect" class="map" />
        <div v-else class="stack">
          <el-skeleton-item variant="h3" /><el-skeleton-item variant="text" /><el-skeleton-item
            variant="text"
          />
        </div>
      </template>
    </el-skeleton>
  </div>
</template>

<style scoped>
.title {
  width: 40%;
  height: 1.9rem;
  margin-bottom: 14px;
}
.map {
  width: 100%;
  height: min(60vw, 420px);
}
.wait {
  --el-skeleton-color: var(--sheet-2);
  --el-skeleton-to-color: var(--line);
}
</style>
