import { customType, timestamp } from 'drizzle-orm/pg-core';
import type { z } from 'zod';

/** Bytes and milliseconds since 1970: larger than 32 bits, well inside the integers a double holds. */
export const whole = customType<{ data: number; driverData: string | number | bigint }>({
  dataType: () => 'bigint',
  fromDriver: Number,
});

/**
 * JSON kept as text: a list of very many clips asks for it of all of them, and text comes several times as fast as jsonb,
 * which the database would write out anew for each.
 */
export const written = <T>() =>
  customType<{ data: T; driverData: string }>({
    dataType: () => 'text',
    toDriver: (v) => JSON.stringify(v),
    fromDriver: (v) => JSON.parse(v) as T,
  })();
/** JSON of a shape that earlier versions wrote otherwise: it is read as the shape reads it. */
export const shaped = <T>(shape: z.ZodType<T>) =>
  customType<{ data: T; driverData: unknown }>({
    dataType: () => 'jsonb',
    toDriver: (v) => JSON.stringify(v),
    fromDriver: (v) => shape.parse(typeof v === 'string' ? JSON.parse(v) : v),
  })();
export const at = (name: string) => timestamp(name, { withTimezone: true, mode: 'date' });
