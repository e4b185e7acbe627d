import { Checkbox, Select } from '@mantine/core';
import { asDepot, type DepotIndex, type Ownership } from '#core/builds';

/** What a person has of the game: the language, the add-ons, the optional packs. It decides which depots count. */
export function OwnershipForm({
  index,
  ownership,
  onChange,
}: {
  index: DepotIndex;
  ownership: Ownership;
  onChange: (ownership: Ownership) => void;
}) {
  const languages = index.depots.filter(({ kind }) => kind === 'language');
  const choices = index.depots.filter(({ kind }) => kind === 'add-on' || kind === 'optional');
  return (
    <>
      {languages.length > 0 && (
        <Select
          mt={8}
          label="Language"
          allowDeselect={false}
          data={languages.map(({ language, title }) => ({ value: language ?? '', label: title }))}
          value={ownership.language}
          onChange={(language) => language !== null && onChange({ ...ownership, language })}
        />
      )}
      {choices.map(({ id, title, kind }) => {
        const list = kind === 'add-on' ? 'addOns' : 'optional';
        const has = ownership[list].includes(id);
        return (
          <Checkbox
            key={id}
            mt={8}
            size="xs"
            label={`${title} (${kind === 'add-on' ? 'add-on' : 'optional'})`}
            checked={has}
            onChange={() =>
              onChange({
                ...ownership,
                [list]: has ? ownership[list].filter((other) => other !== id) : [...ownership[list], asDepot(id)],
              })
            }
          />
        );
      })}
    </>
  );
}
