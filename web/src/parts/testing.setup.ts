/** What a browser has and the tests' document lacks: relative addresses of calls, dialogs, and popovers. */

type Fetch = typeof globalThis.fetch;

const own = globalThis.Request;
globalThis.Request = class extends own {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, location.href) : input, init);
  }
} as typeof own;

// The client keeps the fetch it finds when it is loaded; a test says later what answers.
const answering: { fetch: Fetch } = {
  fetch: () => Promise.reject(new Error("nothing answers: the test names no server")),
};
let asked = 0;
globalThis.fetch = (async (...given) => {
  asked += 1;
  try {
    return await answering.fetch(...given);
  } finally {
    asked -= 1;
  }
}) as Fetch;

/** How many calls have not been answered yet. */
export function underWay(): number {
  return asked;
}

export function answerBy(fetch: Fetch) {
  answering.fetch = fetch;
}

HTMLDialogElement.prototype.showModal = function () {
  this.open = true;
};
HTMLDialogElement.prototype.close = function () {
  this.open = false;
};

HTMLElement.prototype.showPopover = () => {};
HTMLElement.prototype.hidePopover = () => {};

globalThis.ResizeObserver = class {
  observe() {}
  unobserve() {}
  disconnect() {}
};

window.scrollTo = () => {};
