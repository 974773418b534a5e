<script setup lang="ts">
// A printer's set-up: what is typed on one side, the bed as it is seen from above on the other.
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import ReliefMap from '@/bed/ReliefMap.vue'
import { useTrail } from '@/shell/trail'
import BedFields from './BedFields.vue'
import ClashDialog from './ClashDialog.vue'
import KeepOffFields from './KeepOffFields.vue'
import LineFields from './LineFields.vue'
import ProbeFields from './ProbeFields.vue'
import { useSetUp } from './setUp'
import SupportFields from './SupportFields.vue'
import SurfaceFields from './SurfaceFields.vue'

const route = useRoute()
const router = useRouter()
const id = computed(() => (route.params.id ? Number(route.params.id) : null))
const setUp = useSetUp(id)
const { now, bed, reach, errors, trouble, loadError, ready, found, saving, threads, screws, pads } = setUp
const { theirs, differences, takeTheirs, keepMine, beginAgain, chooseCount, chooseThread, move, save } = setUp
const notes = computed(() => [...screws.value, ...pads.value].map((s) => ({ name: s.name, text: s.name })))
useTrail(() =>
  id.value === null
    ? [{ name: 'New printer' }]
    : [{ name: now.value.form.name || 'Printer', to: `/printers/${id.value}` }, { name: 'Set-up' }],
)
</script>

<template>
  <div v-if="loadError" class="trouble" role="alert">{{ loadError }}</div>
  <el-form v-else-if="ready" class="stack" @submit.prevent="save">
    <h1>{{ id === null ? 'Set up a printer' : `Set-up of ${now.form.name}` }}</h1>
    <CautionNote v-if="found" role="status">
      What you typed before is here again, not saved yet.
      <el-button text size="small" @click="beginAgain">Begin again</el-button>
    </CautionNote>
    <div class="columns">
      <div class="stack">
        <BedFields v-model="now.form" :errors="errors" />
        <SupportFields
          v-model="now"
          :errors="errors"
          :bed="bed"
          :threads="threads?.threads ?? []"
          @count="chooseCount"
          @thread="chooseThread"
        />
        <KeepOffFields v-model="now.more.keep_off" :errors="errors" :bed="bed" />
        <ProbeFields v-model="now.more" :errors="errors" :screws="now.form.screws" />
        <SurfaceFields v-model="now.more" :errors="errors" />
        <LineFields v-model="now.more" :errors="errors" />
        <TroubleNote v-if="trouble">{{ trouble }}</TroubleNote>
        <div class="row">
          <el-button type="primary" size="large" native-type="submit" :loading="saving.busy">{{
            id === null ? 'Save this printer' : 'Save the set-up'
          }}</el-button>
          <el-button size="large" @click="router.back()">Cancel</el-button>
        </div>
      </div>
      <aside class="sheet stack picture">
        <h2>As you see it from above</h2>
        <ReliefMap
          v-if="bed"
          :bed="bed"
          :screws="screws"
          :pads="pads"
          :reach="reach"
          :notes="notes"
          movable
          label="The plate, the printable area and what carries it"
          @move="move"
        />
        <p class="small quiet">
          Outer shape: the plate. Inner frame: the printable area.
          {{ now.more.pads.length ? 'Ovals: the pads.' : 'Squares: the screws.' }} Drag them to their places,
          or use the arrow keys.{{ reach ? ' Dashed: what the probe reaches.' : ''
          }}{{ bed?.keep_off?.length ? ' Barred: nothing goes there.' : '' }}
        </p>
      </aside>
    </div>
    <ClashDialog
      :open="theirs !== null"
      :differences="differences"
      @theirs="takeTheirs"
      @mine="keepMine"
      @leave="theirs = null"
    />
  </el-form>
  <WaitBox v-else says="Opening …" kind="page" />
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: minmax(0, 6fr) minmax(0, 5fr);
  gap: 18px;
  align-items: start;
}
.picture {
  position: sticky;
  top: 12px;
}
@media (max-width: 800px) {
  .columns {
    grid-template-columns: 1fr;
  }
  .picture {
    position: static;
  }
}
</style>
