using Hollin.Hub.Domain;

namespace Hollin.Hub.Application
{
    /// <summary>Polls every station once. The one class here that is handed all it needs.</summary>
    public class CollectionRound
    {
        private readonly IRadioLink radio;
        private readonly IReadingStore store;
        private readonly IStationBook stations;
        private readonly DepthRule rule = new DepthRule(900);

        public CollectionRound(IRadioLink radio, IReadingStore store, IStationBook stations)
        {
            this.radio = radio;
            this.store = store;
            this.stations = stations;
        }

        public int Run()
        {
            int kept = 0;
            foreach (string name in stations.Names)
            {
                Station station = stations.Find(name);
                foreach (Reading reading in radio.Poll(name))
                {
                    if (rule.IsPlausible(reading))
                    {
                        station.Add(reading);
                        store.Keep(reading);
                        kept++;
                    }
                }
            }
            return kept;
        }
    }
}
