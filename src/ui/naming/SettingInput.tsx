'use client';
import { useQuery } from '@tanstack/react-query';
import { useId } from 'react';
import type { Setting } from '../../core/naming/blocks/block';
import { FieldGroup, FIELDS, GROUP_WORDS } from '../../core/facts';
import { useServer } from '../platform/job';

/** One setting of a block, by what its module says of it. */
export function SettingInput({
  setting,
  value,
  set,
}: {
  setting: Setting;
  value: unknown;
  set: (value: unknown) => void;
}) {
  switch (setting.type) {
    case 'text':
      return (
        <Field
          label={setting.label}
          value={String(value)}
          most={setting.most}
          wide={setting.wide ?? false}
          set={set}
        />
      );
    case 'keyword':
      return <KeywordField label={setting.label} value={String(value)} most={setting.most} set={set} />;
    case 'number':
      return (
        <Count
          label={setting.label}
          value={Number(value)}
          least={setting.least}
          most={setting.most}
          set={set}
        />
      );
    case 'choice':
      return <Choice label={setting.label} value={String(value)} options={setting.options} set={set} />;
    case 'several': {
      const chosen = value as string[];
      return (
        <span role="group" aria-label={setting.label} data-several="">
          {setting.label}
          {setting.options.map(([v, word]) => (
            <label key={v}>
              <input
                type="checkbox"
                checked={chosen.includes(v)}
                onChange={() =>
                  set(
                    setting.options
                      .map(([o]) => o)
                      .filter((o) => (o === v ? !chosen.includes(o) : chosen.includes(o))),
                  )
                }
              />
              {word}
            </label>
          ))}
          {chosen.length === 0 && <span className="soft">{setting.none}</span>}
        </span>
      );
    }
    case 'field':
      return (
        <label>
          {setting.label}{' '}
          <select value={String(value)} onChange={(e) => set(e.target.value)}>
            {FieldGroup.options.map((g) => (
              <optgroup key={g} label={GROUP_WORDS[g]}>
                {FIELDS.filter((f) => f.group === g).map((f) => (
                  <option key={f.id} value={f.id}>
                    {f.term}
                  </option>
                ))}
              </optgroup>
            ))}
          </select>
        </label>
      );
  }
}

export function Choice<V extends string>({
  label,
  value,
  options,
  set,
}: {
  label: string;
  value: V;
  options: readonly (readonly [V, string])[];
  set: (value: V) => void;
}) {
  return (
    <label>
      {label}{' '}
      <select value={value} onChange={(e) => set(e.target.value as V)}>
        {options.map(([v, word]) => (
          <option key={v} value={v}>
            {word}
          </option>
        ))}
      </select>
    </label>
  );
}

export function Field({
  label,
  value,
  most,
  wide,
  known,
  set,
}: {
  label: string;
  value: string;
  most: number;
  wide?: boolean;
  /** Texts that are offered, where there are such; empty means any of them. */
  known?: readonly string[];
  set: (value: string) => void;
}) {
  const list = useId();
  return (
    <label>
      {label}{' '}
      <input
        value={value}
        maxLength={most}
        size={wide ? Math.min(22, most) : known ? 11 : Math.min(5, most + 1)}
        {...(known && { list, placeholder: 'any' })}
        onChange={(e) => set(e.target.value)}
      />
      {known && (
        <datalist id={list}>
          {known.map((k) => (
            <option key={k} value={k} />
          ))}
        </datalist>
      )}
    </label>
  );
}

/** A group of keywords, or one of them, of those that the job has. */
function KeywordField(field: Omit<Parameters<typeof Field>[0], 'known'>) {
  const server = useServer();
  const { keywords = [] } = useQuery({ queryKey: ['choose', 'view'], queryFn: server.choose }).data ?? {};
  const groups = keywords.map((k) => k.family).filter(Boolean);
  return <Field {...field} known={[...new Set([...groups.sort(), ...keywords.map((k) => k.name)])]} />;
}

export function Count({
  label,
  value,
  least,
  most,
  set,
}: {
  label: string;
  value: number;
  least: number;
  most: number;
  set: (value: number) => void;
}) {
  return (
    <label>
      {label}{' '}
      <input
        type="number"
        min={least}
        max={most}
        value={value}
        onChange={(e) => set(Math.max(least, Math.min(most, Math.trunc(Number(e.target.value) || 0))))}
      />
    </label>
  );
}
