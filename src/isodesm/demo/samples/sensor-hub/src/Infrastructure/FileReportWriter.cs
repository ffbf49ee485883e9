using System.IO;
using Hollin.Hub.Application;

namespace Hollin.Hub.Infrastructure
{
    public class FileReportWriter : IReportWriter
    {
        private readonly string path;

        public FileReportWriter(string path)
        {
            this.path = path;
        }

        public void Write(string line)
        {
            File.AppendAllText(path, line + "\n");
        }
    }
}
