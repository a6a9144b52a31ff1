import { z } from 'zod';

/**
 * A schema that takes what it gave before as it is: values are never changed once they are made, so what held once holds. Most of
 * a job is the same after a change, and to check it all again takes longer than a key stroke.
 */
export function remembered<T extends z.ZodType>(schema: T): z.ZodType<z.output<T>> {
  const given = new WeakSet<object>();
  return z.unknown().transform((value, context): z.output<T> => {
    if (typeof value === 'object' && value !== null && given.has(value)) return value as z.output<T>;
    const result = schema.safeParse(value);
    if (!result.success) {
      for (const issue of result.error.issues) context.addIssue({ ...issue, code: 'custom' });
      return z.NEVER;
    }
    if (typeof result.data === 'object' && result.data !== null) given.add(result.data);
    return result.data;
  });
}
