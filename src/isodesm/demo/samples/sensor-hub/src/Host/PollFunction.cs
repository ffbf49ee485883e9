using Hollin.Hub.Application;
using Hollin.Hub.Infrastructure;

namespace Hollin.Hub.Host
{
    /// <summary>Called by the host's timer, once an hour.</summary>
    public class PollFunction
    {
        private readonly CollectionRound round;

        public PollFunction()
        {
            var book = new StationBook();
            round = new CollectionRound(new RadioLink(HubSettings.RadioHost, 7060), new FileReadingStore(new RoundSession()), book);
        }

        public int Tick()
        {
            return round.Run();
        }
    }
}
