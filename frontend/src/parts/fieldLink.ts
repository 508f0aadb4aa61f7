/** Where a unit's field is: in the Locker, with the way back to where one came from. */
export function fieldLink(unit: string, label = "", back = ""): string {
  const query = new URLSearchParams({ ...(label && { field: label }), ...(back && { back }) }).toString();
  return `/locker/${unit}${query && `?${query}`}`;
}
