import { TextInput } from '@mantine/core';
import { useState } from 'react';
import { useAddress } from './use-address';

/**
 * A filter that stands in the address. While it is typed into, the field shows what is typed: the address follows a moment
 * later, and must not take letters back.
 */
export function FilterInput({
  name,
  label,
  placeholder,
  width,
}: {
  /** Of the parameter. */
  name: string;
  label: string;
  placeholder: string;
  width?: number;
}) {
  const address = useAddress();
  const [typed, setTyped] = useState<string>();
  const stands = address.get(name) ?? '';
  return (
    <TextInput
      data-filter
      aria-label={label}
      placeholder={placeholder}
      {...(width !== undefined && { w: width })}
      value={typed ?? stands}
      onFocus={() => setTyped(stands)}
      onBlur={() => setTyped(undefined)}
      onChange={({ currentTarget: { value } }) => {
        setTyped(value);
        address.set({ [name]: value });
      }}
    />
  );
}
