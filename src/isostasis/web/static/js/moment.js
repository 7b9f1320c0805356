// The server's clock on this device, whose own may be wrong.

let ahead = 0;
export function heard(moment) {
  if (moment) ahead = new Date(moment) - Date.now();
}
heard(document.documentElement.dataset.now);

export const serverNow = () => Date.now() + ahead;
