using System.Collections.Generic;

namespace Hollin.Hub.Domain
{
    public partial class Station
    {
        public string Name { get; set; }
        public double Offset { get; set; }
        public List<Reading> Readings { get; } = new List<Reading>();
    }
}
