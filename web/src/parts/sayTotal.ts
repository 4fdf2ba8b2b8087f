/** Beyond this a list is not counted; the server then says one more. */
const MOST = 1000;

export const sayTotal = (total: number): string => (total > MOST ? 'more than 1,000' : total.toLocaleString('en'));
