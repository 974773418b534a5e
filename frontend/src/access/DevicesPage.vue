<script setup lang="ts">
// Who comes in from the network: the switch, the code for one phone, the devices there are, and what was done.
import { computed, ref } from 'vue'
import { call, useApiQuery } from '@/api/ask'
import { useSending } from '@/api/change'
import { sentence } from '@/api/client'
import { useMe } from '@/api/shown'
import CalendarPanel from '@/prints/CalendarPanel.vue'
import AuditTrail from './AuditTrail.vue'
import CodePanel from './CodePanel.vue'
import DeviceRow from './DeviceRow.vue'

const { data: sharing, error } = useApiQuery(
  '/api/sharing',
  {},
  // it takes a moment until the way in is open
  { again: (now) => (now?.on && !now.urls.length ? 1_000 : false) },
)
const { data: devices } = useApiQuery('/api/devices')
const { data: me } = useMe()
const sharing_ = useSending({ aloud: true })
const turn = (on: boolean) =>
  sharing_.run(
    () => call('put', '/api/sharing', {}, { on }),
    on ? 'It is being opened to the local network.' : 'It is closed to the network.',
  )
const asking = ref(false)
const isOpen = computed(() => Boolean(sharing.value?.on && sharing.value.urls.length))
</script>

<template>
  <TroubleNote v-if="error">{{ sentence(error) }}</TroubleNote>
  <div v-else-if="sharing" class="stack">
    <h1>Devices</h1>
    <p class="quiet">
      Phones, tablets and other computers of your local network that may come in, each by a name and with what
      it may do.
    </p>
    <div class="worktable even">
      <section class="sheet stack" aria-label="Local network">
        <div class="row spread">
          <h2>Open to the local network</h2>
          <el-switch
            :model-value="sharing.on"
            size="large"
            aria-label="Open to the local network"
            :disabled="!sharing.can"
            :loading="sharing_.busy"
            @update:model-value="(on: string | number | boolean) => turn(on === true)"
          />
        </div>
        <el-alert
          v-if="!sharing.can"
          type="info"
          :closable="false"
          show-icon
          title="This Finchwort was started by itself and cannot open a way in. Start it with: finchwort start"
        />
        <p v-else-if="!sharing.on">
          Now only this computer reaches Finchwort. Switched on, a device still sees nothing but the page that
          asks for a code.
        </p>
        <CautionNote v-else-if="sharing.trouble" role="status">{{ sharing.trouble }}</CautionNote>
        <p v-else-if="!isOpen" class="quiet" role="status">It is being opened …</p>
        <template v-else>
          <p>Devices reach it, encrypted, at</p>
          <ul class="addresses">
            <li v-for="url in sharing.urls" :key="url">
              <code>{{ url }}</code>
            </li>
          </ul>
          <FoldPart title="The phone warns about the certificate?">
            <div class="stack small">
              <p>
                Finchwort vouches for itself. Put its <a href="/api/authority.crt" download>certificate</a> on
                the phone once (the phone’s page for the code has it too, and says where phones keep such
                things). It vouches for names ending in .local and local addresses, and for nothing else.
              </p>
              <p>Before you agree on the phone, compare the fingerprint (SHA-256). It must be:</p>
              <p class="print">
                <code>{{ sharing.fingerprint }}</code>
              </p>
            </div>
          </FoldPart>
        </template>
      </section>
      <section class="sheet stack" aria-label="Let a device in">
        <h2>Let a device in</h2>
        <CodePanel v-if="asking" @done="asking = false" />
        <template v-else>
          <p>
            A code on this screen lets one device in, once, within ten minutes. The phone’s camera reads it.
          </p>
          <p>
            <el-button type="primary" size="large" :disabled="!isOpen" @click="asking = true"
              >Let a device in</el-button
            >
          </p>
          <p v-if="!isOpen" class="quiet small">Open it to the local network first.</p>
        </template>
      </section>
    </div>
    <section class="sheet stack" aria-label="Devices that are let in">
      <h2>Let in</h2>
      <p v-if="devices && !devices.devices.length" class="quiet">
        None yet. This computer itself needs no code.
      </p>
      <ul v-else-if="devices" class="devices">
        <DeviceRow v-for="one in devices.devices" :key="one.id" :device="one" />
      </ul>
    </section>
    <CalendarPanel />
    <AuditTrail />
    <p v-if="me?.name" class="quiet small">You are on {{ me.name }}.</p>
  </div>
  <WaitBox v-else says="Opening …" kind="page" />
</template>

<style scoped>
.addresses {
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 1.1rem;
}
.print {
  overflow-wrap: anywhere;
}
.devices {
  list-style: none;
  margin: 0;
  padding: 0;
}
</style>
