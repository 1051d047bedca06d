import type { FieldWrite } from './fields.ts';

/** Field writes of one user: a signal, the clock. */
export type User = { name: string; writes: readonly FieldWrite[] };

/** Two users that want different values in one place of a register. */
export type RegisterConflict = {
  register: string;
  field: string | null;
  users: [string, string];
  values: [number, number];
};

/** All users' writes laid over each other, once each, and the places where they disagree. */
export function mergeWrites(users: readonly User[]): { writes: FieldWrite[]; conflicts: RegisterConflict[] } {
  const held = new Map<string, { write: FieldWrite; user: string }>();
  const conflicts: RegisterConflict[] = [];
  for (const { name, writes } of users) {
    for (const write of writes) {
      const key = `${write.register}.${write.field ?? ''}`;
      const other = held.get(key);
      if (!other) held.set(key, { write, user: name });
      else if (other.write.value !== write.value) {
        conflicts.push({
          register: write.register,
          field: write.field,
          users: [other.user, name],
          values: [other.write.value, write.value],
        });
      }
    }
  }
  return { writes: [...held.values()].map(({ write }) => write), conflicts };
}

/** A register conflict as a sentence: "Fan and Lamp both need TCCR1B.CS10, as 0 and as 1." */
export function conflictSentence({ register, field, users, values }: RegisterConflict): string {
  const place = field === null ? register : `${register}.${field}`;
  return `${users[0]} and ${users[1]} both need ${place}, one as ${values[0]}, the other as ${values[1]}.`;
}
