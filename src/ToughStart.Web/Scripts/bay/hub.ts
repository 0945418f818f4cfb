import { HttpTransportType, HubConnectionBuilder, LogLevel } from "@microsoft/signalr";

const LONGEST_MS = 30_000;
const AGAIN_MS = 5000;

/**
 * Hears that a log has come to a number. Any instance will do: no way is negotiated first, so that no request must find the one before. What
 * is not heard is asked for all the same, by the clock.
 */
export async function listen(join: [method: string, ...of: number[]], heard: (job: number, number: number) => void): Promise<void> {
  const hub = new HubConnectionBuilder()
    .withUrl("/hub/bay", { skipNegotiation: true, transport: HttpTransportType.WebSockets })
    .withAutomaticReconnect({
      nextRetryDelayInMilliseconds: (c) => Math.min(LONGEST_MS, 1000 * 2 ** Math.min(5, c.previousRetryCount)),
    })
    .configureLogging(LogLevel.None)
    .build();
  hub.on("head", heard);
  hub.onreconnected(() => hub.invoke(...join));
  try {
    await hub.start();
    await hub.invoke(...join);
  } catch {
    setTimeout(() => void listen(join, heard), AGAIN_MS);
  }
}

/** The bay's page loads this for itself once it can be used: it tells it how to listen. */
dispatchEvent(new CustomEvent("hub", { detail: listen }));
