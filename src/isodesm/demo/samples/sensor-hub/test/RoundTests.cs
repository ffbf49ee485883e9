using System;
using System.Collections.Generic;
using Hollin.Hub.Application;
using Hollin.Hub.Domain;
using Hollin.Hub.Infrastructure;

namespace Hollin.Hub.Tests
{
    public static class RoundTests
    {
        private class StillRadio : IRadioLink
        {
            public IEnumerable<Reading> Poll(string station)
            {
                yield return new Reading(station, "depth", 120, DateTime.MinValue);
                yield return new Reading(station, "depth", -4, DateTime.MinValue);
            }
        }

        private class CountingStore : IReadingStore
        {
            public int Count { get; private set; }

            public void Keep(Reading reading)
            {
                Count++;
            }
        }

        public static int Main()
        {
            var store = new CountingStore();
            var book = new StationBook();
            book.Add(new Station { Name = "Lyn", Offset = 20 });
            int kept = new CollectionRound(new StillRadio(), store, book).Run();
            bool holds = kept == 1 && store.Count == 1 && book.Find("Lyn").Readings[0].Value == 100;
            Console.WriteLine(holds ? "1 check passed" : "failed: the round keeps what is plausible, corrected");
            return holds ? 0 : 1;
        }
    }
}
