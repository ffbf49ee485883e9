using System.IO;
using Hollin.Hub.Application;
using Hollin.Hub.Domain;

namespace Hollin.Hub.Infrastructure
{
    public class FileReadingStore : IReadingStore
    {
        private readonly RoundSession session;

        public FileReadingStore(RoundSession session)
        {
            this.session = session;
        }

        public int Count { get; private set; }

        public void Keep(Reading reading)
        {
            Count++;
            File.AppendAllText(session.FileName, reading.Station + " " + reading.Quantity + " " + reading.Value + "\n");
        }
    }
}
