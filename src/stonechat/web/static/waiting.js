// When the database or the program goes away: the page says so, waits for it, and goes on where it was.
(() => {
  const LOOK_MS = 1000;
  let looking = null;
  let pending = null; // what was asked last and not answered
  let resent = ""; // where a change was sent again; one that fails twice is left to the rider

  const say = (words) => {
    const box = page.message(words);
    if (box) box.dataset.waiting = "";
  };

  const isReady = async () => {
    try {
      const answer = await fetch("/ready", { cache: "no-store" });
      return answer.ok;
    } catch {
      return false;
    }
  };

  const goOn = () => {
    const what = pending;
    pending = null;
    if (document.querySelector("main.alone [data-waits]")) window.location.reload();
    if (!what) return;
    const { kept, config, elt, target } = what;
    if (config.verb !== "get" && kept === "not" && elt.isConnected) {
      say("It is back. Your change is sent again.");
      resent = config.path;
      window.htmx.ajax(config.verb.toUpperCase(), config.path, { source: elt, target, values: config.parameters });
      return;
    }
    const here = window.location.pathname + window.location.search;
    if (!document.getElementById("stage")) window.location.reload();
    else {
      window.htmx.ajax("GET", here, { target: "#stage", swap: "outerHTML show:none" }).then(() => {
        if (config.verb === "get") say("");
        else if (kept === "kept") say("It is back, and your change was kept; this is what is there now.");
        else say("It is back. Whether your last change was kept was not known; this is what is there now.");
      });
    }
  };

  const look = () => {
    if (looking) return;
    looking = setInterval(async () => {
      if (!(await isReady()) || !looking) return;
      clearInterval(looking);
      looking = null;
      goOn();
    }, LOOK_MS);
  };

  const remember = (event, kept) => {
    const { requestConfig: config, elt, target } = event.detail;
    // a poll that fails does not take the place of a change that waits
    if (pending && pending.config.verb !== "get" && config.verb === "get") return;
    pending = { kept, config, elt, target };
  };

  document.addEventListener("htmx:responseError", (event) => {
    if (event.detail.xhr.status !== 503) return;
    const config = event.detail.requestConfig;
    if (config.verb !== "get" && config.path === resent) {
      resent = "";
      return; // what the answer says stands: a full disk is not waited for
    }
    remember(event, event.detail.xhr.getResponseHeader("X-Kept") || "unknown");
    look();
  });
  document.addEventListener("htmx:beforeOnLoad", (event) => {
    if (event.detail.xhr.status < 400 && event.detail.requestConfig.path === resent) resent = "";
  });
  document.addEventListener("htmx:sendError", (event) => {
    remember(event, "unknown");
    say("The program does not answer. Is it running? Start it again: what you typed stays here, and this page goes on by itself.");
    look();
  });
  document.addEventListener("DOMContentLoaded", () => {
    if (document.querySelector("[data-waits]")) look();
  });
})();
