<script setup lang="ts">
// One code for one device: what it may do, the picture for its camera, the letters for who types.
import { useIntervalFn } from '@vueuse/core'
import { computed, onUnmounted, ref } from 'vue'
import { ROLES, type Role } from '@/access/roles'
import { call, useApiQuery } from '@/api/ask'
import { useSending } from '@/api/change'
import type { Schemas } from '@/api/client'

const emit = defineEmits<{ done: [] }>()
const role = ref<Role>('member')
const days = ref<1 | 30 | 90 | 365>(90)
const code = ref<Schemas['CodeOut'] | null>(null)
const making = useSending({ patient: false })
const { data: state } = useApiQuery(
  '/api/pairings/{pairing_id}',
  () => (code.value ? { pairing_id: code.value.id } : null),
  { again: (now) => (now && now.state !== 'open' ? false : 1_000) },
)
const picture = computed(() => `data:image/svg+xml;utf8,${encodeURIComponent(code.value!.picture)}`)

async function prepare(): Promise<void> {
  const made = await making.run(() =>
    call('post', '/api/pairings', {}, { role: role.value, days: days.value }),
  )
  if (!made) return
  code.value = made
  count()
}
const left = ref(0)
const count = (): void =>
  void (left.value = code.value
    ? Math.max(0, Math.round((new Date(code.value.expires_at).getTime() - Date.now()) / 1000))
    : 0)
useIntervalFn(count, 1000)
const clock = computed(() => `${Math.floor(left.value / 60)}:${String(left.value % 60).padStart(2, '0')}`)

const open = computed(() => code.value !== null && (state.value?.state ?? 'open') === 'open')
const withdraw = (): void =>
  void (
    open.value &&
    call('delete', '/api/pairings/{pairing_id}', { pairing_id: code.value!.id }).catch(() => undefined)
  )
onUnmounted(withdraw)
function cancel(): void {
  withdraw()
  emit('done')
}
</script>

<template>
  <el-form v-if="!code" class="stack" @submit.prevent="prepare">
    <fieldset class="plain stack">
      <legend>What may it do?</legend>
      <el-radio-group v-model="role" aria-label="What may it do?" class="roles">
        <el-radio v-for="one in ROLES" :key="one.key" :value="one.key" border size="large">{{
          one.name
        }}</el-radio>
      </el-radio-group>
      <p class="small" role="status">{{ ROLES.find((one) => one.key === role)!.says }}</p>
    </fieldset>
    <fieldset class="plain stack">
      <legend>For how long?</legend>
      <el-radio-group v-model="days" aria-label="For how long?">
        <el-radio-button :value="1">A day</el-radio-button
        ><el-radio-button :value="30">A month</el-radio-button>
        <el-radio-button :value="90">3 months</el-radio-button
        ><el-radio-button :value="365">A year</el-radio-button>
      </el-radio-group>
    </fieldset>
    <TroubleNote v-if="making.trouble">{{ making.trouble }}</TroubleNote>
    <p class="row">
      <el-button type="primary" size="large" native-type="submit" :loading="making.busy"
        >Make the code</el-button
      ><el-button size="large" @click="cancel">Cancel</el-button>
    </p>
  </el-form>
  <div v-else-if="state?.state === 'used'" class="stack" role="status">
    <p class="in">{{ state.device }} is let in.</p>
    <p><el-button type="primary" size="large" @click="emit('done')">Done</el-button></p>
  </div>
  <div v-else-if="state && state.state !== 'open'" class="stack" role="status">
    <CautionNote>
      {{
        state.state === 'late'
          ? 'Ten minutes are over; this code does not count any more.'
          : 'Too many wrong codes came, so all codes were withdrawn. Wait a quarter of an hour.'
      }}
    </CautionNote>
    <p class="row">
      <el-button type="primary" @click="code = null">Another code</el-button
      ><el-button @click="emit('done')">Close</el-button>
    </p>
  </div>
  <div v-else class="code">
    <img :src="picture" alt="The address with the code, for a camera" width="246" height="246" />
    <div class="stack">
      <p>
        <b>Point the phone’s camera here.</b> Or open <code>{{ code.url.split('?')[0] }}</code> on it and type
      </p>
      <p class="letters" data-code>
        <code>{{ code.code }}</code>
      </p>
      <p class="quiet small" role="timer">
        Counts once, for {{ clock }} more. {{ ROLES.find((one) => one.key === role)!.name }}.
      </p>
      <p class="quiet small">
        The browser warns the first time that it does not know the certificate; the page says what to do.
      </p>
      <p><el-button @click="cancel">Withdraw the code</el-button></p>
    </div>
  </div>
</template>

<style scoped>
.plain {
  border: 0;
  margin: 0;
  padding: 0;
}
.roles {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 8px;
}
.roles .el-radio {
  margin: 0;
}
.code {
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
}
.code img {
  border-radius: var(--round);
  background: #fff;
}
.code > div {
  flex: 1 1 220px;
}
.letters {
  font-size: 1.6rem;
  letter-spacing: 0.04em;
  font-weight: 700;
}
.in {
  font-size: 1.2rem;
  font-weight: 650;
  color: var(--good);
}
</style>
