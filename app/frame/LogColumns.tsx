/** The columns that the tables of the log have in common; frame.module.css says how wide they are. */
export function LogColumns() {
  return (
    <colgroup>
      <col />
      <col />
      <col />
      <col />
      <col />
    </colgroup>
  );
}
