<script setup lang="ts">
// What follows from looks: one knob, one trim, or nothing.
import type { Schemas } from '@/api/client'
import KnobTurn from '@/charts/KnobTurn.vue'

defineProps<{ data: Schemas['LooksOut']; visit: number; busy: boolean }>()
defineEmits<{ turned: [] }>()
const VERB = { tighten: 'Tighten', loosen: 'Loosen' } as const
</script>

<template>
  <section class="answer" aria-label="What follows">
    <template v-if="data.turn">
      <div class="turn">
        <div class="knob">
          <KnobTurn
            :turns="data.turn.turns"
            :direction="data.turn.direction"
            :figures="data.turn.figures"
            :leave="false"
            :label="data.sentence"
          />
        </div>
        <div>
          <h1>{{ VERB[data.turn.action] }} {{ data.turn.name }}</h1>
          <p>
            <b>{{ data.turn.direction }}</b> as you see it, {{ data.turn.words }}
          </p>
        </div>
      </div>
      <p>{{ data.sentence }}</p>
      <CautionNote>
        Fingers under a moving bed: reach the knob only where nothing can pinch you, and only while you see
        the head.
      </CautionNote>
      <el-button type="primary" class="large" :loading="busy" @click="$emit('turned')">I turned it</el-button>
    </template>
    <template v-else>
      <h1>
        {{
          data.what === 'leave'
            ? 'Leave it'
            : data.what === 'trim'
              ? `Trim ${data.closer > 0 ? 'closer' : 'farther'}`
              : 'No knob for that'
        }}
      </h1>
      <p>{{ data.sentence }}</p>
      <RouterLink
        v-if="data.what === 'trim'"
        :to="`/visits/${visit}/offset`"
        class="el-button el-button--primary el-button--large go"
        >To trimming</RouterLink
      >
    </template>
  </section>
</template>

<style scoped>
.answer {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding-bottom: 12px;
  border-bottom: 2px solid var(--line-2);
  font-size: 1.15rem;
}
.turn {
  display: grid;
  grid-template-columns: min(30vw, 150px) 1fr;
  gap: 16px;
  align-items: center;
}
.large {
  width: 100%;
  min-height: 64px;
  font-size: 1.3rem;
  font-weight: 650;
}
.go {
  text-decoration: none;
}
</style>
