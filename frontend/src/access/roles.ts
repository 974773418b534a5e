// What each role may do.
import type { Schemas } from '@/api/client'

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
