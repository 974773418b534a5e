<script setup lang="ts">
// What came of all prints: by surface, material and temperature beside the table, by printer, by place, over time.
import { useApiQuery } from '@/api/ask'
import { sentence } from '@/api/client'
import PathMap from '@/bed/PathMap.vue'
import { useTrail } from '@/shell/trail'
import ShareBar from './ShareBar.vue'

const { data, error } = useApiQuery('/api/print-results')
useTrail(() => [{ name: 'Prints', to: '/prints' }, { name: 'What came of them' }])
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <div v-else-if="data" class="stack">
    <h1>What came of them</h1>
    <section v-if="!data.share.told" class="sheet">
      <p>
        Nothing yet. When it was told of some prints whether they held, this page says on which surface, with
        which material and how warm they do. <RouterLink to="/prints">To the prints</RouterLink>
      </p>
    </section>
    <template v-else>
      <p class="say">{{ data.share.words }}.</p>
      <p class="small quiet">
        The mark is what held; the bar is where the true share may lie (19 times out of 20, if prints go on as
        they did). Prints that ended otherwise are left out.
      </p>
      <section class="sheet stack" aria-labelledby="by-pair">
        <h2 id="by-pair">By surface, material and bed temperature</h2>
        <div class="pairs">
          <div v-for="pair in data.pairs" :key="`${pair.surface_kind} ${pair.material}`" class="pair-of">
            <h3>{{ pair.material || 'Material not said' }} on {{ pair.surface }}</h3>
            <p class="line">
              <ShareBar :share="pair.share" /><span>{{ pair.share.words }}</span>
            </p>
            <p class="small">
              {{ pair.sentence
              }}<template v-if="pair.too_well"> {{ pair.too_well }} stuck too well.</template>
            </p>
            <ul v-if="pair.bands.length > 1">
              <li v-for="band in pair.bands" :key="String(band.bed)" class="line small">
                <b>{{ band.bed === null ? 'not said' : `${band.bed} °C` }}</b><ShareBar
                  :share="band.share"
                /><span>{{ band.share.words }}</span>
              </li>
            </ul>
          </div>
        </div>
      </section>
      <section class="sheet stack" aria-labelledby="by-printer">
        <h2 id="by-printer">By printer</h2>
        <div class="printers">
          <div v-for="one in data.printers" :key="one.printer_id" class="stack">
            <h3>
              <RouterLink :to="`/printers/${one.printer_id}`">{{ one.printer }}</RouterLink>
            </h3>
            <p class="line">
              <ShareBar :share="one.share" /><span>{{ one.share.words }}</span>
            </p>
            <p class="small">{{ one.sentence }}</p>
            <template v-if="one.places.length">
              <PathMap
                :bed="one.bed"
                :paths="[]"
                :places="one.places"
                :label="`Where prints let go on ${one.printer}: ${one.places.length} places`"
              />
              <p class="small quiet">Where prints let go, seen from above, front below.</p>
            </template>
          </div>
        </div>
      </section>
      <section v-if="data.coats.length" class="sheet stack" aria-labelledby="coats">
        <h2 id="coats">How long a coat lasts</h2>
        <p v-for="one in data.coats" :key="one">{{ one }}</p>
      </section>
      <section class="sheet stack" aria-labelledby="by-month">
        <h2 id="by-month">Over time</h2>
        <ul>
          <li v-for="one in data.months" :key="one.month" class="line small">
            <b>{{ one.month }}</b><ShareBar :share="one.share" /><span>{{ one.share.words }}</span>
          </li>
        </ul>
      </section>
    </template>
  </div>
  <WaitBox v-else says="Counting …" kind="page" />
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 14px;
  padding: 3px 0;
}
.line b {
  min-width: 4.6rem;
}
.pair-of {
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
.pairs {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 420px), 1fr));
  gap: 0 24px;
  align-items: start;
}
.printers {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 260px), 1fr));
  gap: 18px;
  align-items: start;
}
</style>
