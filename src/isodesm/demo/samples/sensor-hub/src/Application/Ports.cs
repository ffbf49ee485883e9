using System.Collections.Generic;
using Hollin.Hub.Domain;

namespace Hollin.Hub.Application
{
    public interface IRadioLink
    {
        IEnumerable<Reading> Poll(string station);
    }

    public interface IReadingStore
    {
        void Keep(Reading reading);
        int Count { get; }
    }

    public interface IStationBook
    {
        Station Find(string name);
        IEnumerable<string> Names { get; }
    }

    /// <summary>Where the morning's report goes: to the screen or into a file, as the start-up decides.</summary>
    public interface IReportWriter
    {
        void Write(string line);
    }
}
