// Who asks, devices, the way in from the network, backups, the demo beside one's own.
import { useQuery } from '@tanstack/vue-query'
import { computed, type MaybeRefOrGetter, toValue } from 'vue'
import { give, http, type Schemas } from './client'

export type Role = Schemas['Me']['role']

/** What each role may do, as it is said to the owner. */
export const ROLES: { key: Role; name: string; says: string }[] = [
  {
    key: 'member',
    name: 'Member',
    says: 'Everything but devices, sharing and backups: measures, changes set-ups, deletes, heats and moves machines.',
  },
  {
    key: 'bench',
    name: 'Bench',
    says: 'A tablet left at a printer: measures, turns, looks, judges. Deletes nothing, heats and moves nothing.',
  },
  { key: 'viewer', name: 'Viewer', says: 'Looks, and may stop a machine. Writes nothing down.' },
  { key: 'owner', name: 'Owner', says: 'Everything, also who comes in.' },
]
export const roleName = (role: Role): string => ROLES.find((one) => one.key === role)!.name

export const useMe = () =>
  useQuery({ queryKey: ['me'], queryFn: () => give(http.GET('/api/me')), staleTime: 30_000 })
export const useDevices = () =>
  useQuery({ queryKey: ['devices'], queryFn: () => give(http.GET('/api/devices')) })
export const useSharing = () =>
  useQuery({
    queryKey: ['sharing'],
    queryFn: () => give(http.GET('/api/sharing')),
    // it takes a moment until the way in is open
    refetchInterval: (query) => (query.state.data?.on && !query.state.data.urls.length ? 1_000 : false),
  })
export const useAudit = () => useQuery({ queryKey: ['audit'], queryFn: () => give(http.GET('/api/audit')) })
export const useBackups = () =>
  useQuery({ queryKey: ['backups'], queryFn: () => give(http.GET('/api/backups')) })
export const useCode = (id: MaybeRefOrGetter<number | null>) =>
  useQuery({
    queryKey: ['code', computed(() => toValue(id))],
    queryFn: () =>
      give(http.GET('/api/pairings/{pairing_id}', { params: { path: { pairing_id: toValue(id)! } } })),
    enabled: computed(() => toValue(id) !== null),
    refetchInterval: (query) => (query.state.data && query.state.data.state !== 'open' ? false : 1_000),
  })
export const useDemo = (wanted: MaybeRefOrGetter<boolean>) =>
  useQuery({
    queryKey: ['demo'],
    enabled: computed(() => toValue(wanted)),
    queryFn: () => give(http.GET('/api/demo')),
    refetchInterval: (query) => (query.state.data?.wanted && !query.state.data.ready ? 1_000 : false),
  })

const devicePath = (id: number) => ({ params: { path: { device_id: id } } })
export const access = {
  share: (on: boolean) => give(http.PUT('/api/sharing', { body: { on } })),
  makeCode: (body: Schemas['CodeIn']) => give(http.POST('/api/pairings', { body })),
  withdraw: (id: number) =>
    give(http.DELETE('/api/pairings/{pairing_id}', { params: { path: { pairing_id: id } } })),
  change: (id: number, body: Schemas['DeviceChange']) =>
    give(http.PUT('/api/devices/{device_id}', { ...devicePath(id), body })),
  remove: (id: number) => give(http.DELETE('/api/devices/{device_id}', devicePath(id))),
  olderAudit: (before: number) => give(http.GET('/api/audit', { params: { query: { before } } })),
  backUp: () => give(http.POST('/api/backups')),
  schedule: (body: Schemas['ScheduleIn']) => give(http.PUT('/api/backups/schedule', { body })),
  wantDemo: () => give(http.POST('/api/demo')),
}
