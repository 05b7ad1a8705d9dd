/** Who may do what: the one table the server's doors and the interface both read. */
export const ROLES = ['keeper', 'contributor', 'teammate', 'rights-desk'] as const;
export type Role = (typeof ROLES)[number];

export const ROLE_LABELS: Record<Role, string> = {
  keeper: 'Keeper',
  contributor: 'Contributor',
  teammate: 'Teammate',
  'rights-desk': 'Rights desk',
};

export const ABILITIES = {
  /** See the catalogue, its pictures and records. */
  look: ['keeper', 'contributor', 'teammate', 'rights-desk'],
  /** Take an original file away. */
  original: ['keeper', 'contributor', 'teammate', 'rights-desk'],
  /** Bring material in. */
  intake: ['keeper', 'contributor'],
  /** Change records. */
  describe: ['keeper', 'contributor', 'rights-desk'],
  /** Change names and folders of files, let them go; undo. */
  rename: ['keeper'],
  /** Make and order collections. */
  collect: ['keeper', 'contributor', 'teammate', 'rights-desk'],
  /** Open and close reading rooms. */
  dispatch: ['keeper', 'teammate'],
  /** Read the ledger. */
  ledger: ['keeper', 'contributor', 'rights-desk'],
  /** Own account: password and sessions. */
  account: ['keeper', 'contributor', 'teammate', 'rights-desk'],
  /** People, roles, stages, places. */
  manage: ['keeper'],
} as const satisfies Record<string, readonly Role[]>;

export type Ability = keyof typeof ABILITIES;

/** Whether a role holds an ability. */
export function can(role: Role, ability: Ability): boolean {
  return (ABILITIES[ability] as readonly Role[]).includes(role);
}

/** The abilities a role holds, for the interface. */
export function abilitiesOf(role: Role): Ability[] {
  return (Object.keys(ABILITIES) as Ability[]).filter((ability) => can(role, ability));
}
