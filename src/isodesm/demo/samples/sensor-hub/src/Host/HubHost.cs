using Hollin.Hub.Application;
using Hollin.Hub.Domain;
using Hollin.Hub.Infrastructure;

namespace Hollin.Hub.Host
{
    /// <summary>Puts the hub together. The store is shared, and so holds the session of the first round for good.</summary>
    public class HubHost
    {
        public Registry Build()
        {
            var registry = new Registry();
            var book = new StationBook();
            book.Add(new Station { Name = "Hart", Offset = 2 });
            registry.Shared<IStationBook>(parts => book);
            registry.Shared<IRadioLink>(parts => new RadioLink(HubSettings.RadioHost, 7060));
            registry.PerRound<RoundSession>(parts => new RoundSession());
            registry.Shared<IReadingStore>(parts => new FileReadingStore(parts.Get<RoundSession>()));
            registry.PerRound<CollectionRound>(parts => new CollectionRound(
                parts.Get<IRadioLink>(), parts.Get<IReadingStore>(), parts.Get<IStationBook>()));
            registry.PerRound<StationReport>(parts => new StationReport(registry));
            registry.Shared<DriftAlarm>(parts => new DriftAlarm());
            registry.PerRound<Calibration>(parts => new Calibration());
            registry.PerRound<PollFunction>(parts => new PollFunction());
            if (HubSettings.ReportFile == null)
            {
                registry.Shared<IReportWriter>(parts => new ConsoleReportWriter());
            }
            else
            {
                registry.Shared<IReportWriter>(parts => new FileReportWriter(HubSettings.ReportFile));
            }
            Registry.Current = registry;
            return registry;
        }
    }
}
