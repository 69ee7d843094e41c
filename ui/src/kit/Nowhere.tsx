/** Nowhere stands above a page's first page at an address below it that leads to nothing. */
export function Nowhere({ name }: { name: string }) {
  return (
    <p className="sub px-4 pt-3 pb-1" role="alert">
      There is nothing at this address. This is {name}.
    </p>
  );
}
